import { open } from 'node:fs/promises';
import { setTimeout as sleep } from 'node:timers/promises';
import * as v from 'valibot';
import type { RecordedKind } from '$lib/evidence/recorded-kind';
import { cutText, wellFormed } from '@tromix/core/text/well-formed';
import { writeTraceEvents } from '@tromix/core/profile/write-trace-events';
import { inTimeRange } from '@tromix/core/trace/time-range';
import { writeAll } from '../evidence/evidence-store';
import type { Place } from './addresses';
import {
  framesIn,
  functionsOf,
  startCounting,
  stopCounting,
  takeCounts,
  withCalls,
  withoutSamples
} from './call-counts';
import { Inspector, InspectorError } from './inspector';
import { profileIn } from './profile-reply';
import { WorkerThreads, type ThreadProfile } from './worker-threads';
import { samplingCost, type SamplingCost } from './sampling-cost';

export interface RecordingOrder {
  /** A dump is taken at once: seconds and interval say nothing of it. */
  kind: RecordedKind;
  seconds: number;
  /** Microseconds between CPU samples, or bytes between samples of allocation. */
  interval: number;
  /** Counts every call of every function: beside CPU samples, or alone. */
  calls?: 'beside' | 'alone' | 'no';
  /** Leaves out what tells the cost of sampling: it takes more than a short recording itself. */
  unmeasured?: boolean;
}

export interface TargetFacts {
  pid: number;
  host: string;
  /** As OpenTelemetry's environment names it; '' where it does not. */
  service: string;
  release: string;
  /** True where the environment does not say production. */
  development: boolean;
}

export interface Recorded {
  /** The profile as V8 gave it, JSON; of a process with worker threads, those of all as trace events. */
  json: string;
  isTrace: boolean;
  startedAtUs: number;
  /** CPU the process used just before and while it was recorded, parts of a core. */
  cpuBefore: number | null;
  cpuDuring: number | null;
  cost: SamplingCost | null;
  /** CPU that the process used while sampling was begun and its samples were handed over, microseconds: its own work meanwhile is in it. */
  handlingUs: number | null;
}

/** What is asked of a process before it is recorded. Only what its own environment says; nothing is changed. */
const FACTS = `(() => {
  const env = process.env;
  const attributes = Object.fromEntries((env.OTEL_RESOURCE_ATTRIBUTES ?? '').split(',').map((pair) => pair.split('=').map((part) => part.trim())));
  return {
    pid: process.pid,
    host: attributes['host.name'] ?? env.HOSTNAME ?? '',
    service: env.OTEL_SERVICE_NAME ?? attributes['service.name'] ?? '',
    release: attributes['service.version'] ?? '',
    development: env.NODE_ENV === 'development'
  };
})()`;
const CLOCKS = `({ wall: (performance.timeOrigin + performance.now()) * 1000, monotonic: Number(process.hrtime.bigint()) / 1000, cpu: process.cpuUsage() })`;
interface Clocks {
  wall: number;
  monotonic: number;
  cpu: { user: number; system: number };
}
/** How long the process is watched before, to tell what recording adds. */
const BEFORE_MS = 1000;
/** A profile of ten minutes takes V8 a while to write out. */
const STOP_MS = 120_000;

const name = v.pipe(
  v.string(),
  v.transform((text) => wellFormed(cutText(text, 300)))
);
const Facts = v.object({
  pid: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(2 ** 32 - 1)),
  host: name,
  service: name,
  release: name,
  development: v.boolean()
});
const finite = v.pipe(v.number(), v.finite());
const ClocksShape = v.object({
  wall: v.pipe(finite, v.check(inTimeRange)),
  monotonic: finite,
  cpu: v.object({ user: finite, system: finite })
});

/** The inspector of a process that starts listens a moment before there is a program that can say anything. */
const STARTS_MS = 500;
const AGAIN_MS = 50;

/** Who the process is, as far as what it says can be. @throws InspectorError where it is none. */
export async function factsOf(inspector: Pick<Inspector, 'evaluate'>): Promise<TargetFacts> {
  for (let waitedMs = 0; ; waitedMs += AGAIN_MS) {
    const found = v.safeParse(Facts, await inspector.evaluate(FACTS));
    if (found.success) return found.output;
    if (waitedMs >= STARTS_MS)
      throw new InspectorError('What answers there does not say that it is a Node.js process.');
    await sleep(AGAIN_MS);
  }
}

/** The process's clocks; undefined where it does not tell them. */
async function clocksOf(inspector: Inspector): Promise<Clocks | undefined> {
  const found = v.safeParse(ClocksShape, await inspector.evaluate(CLOCKS));
  return found.success ? found.output : undefined;
}

/**
 * Records a process for a limited time. V8 itself stops sampling when the connection closes, so that a recording ends
 * even when this process dies.
 * @param signal `stop` ends it early and keeps what there is.
 * @throws InspectorError when the process ends or does not answer.
 */
export async function record(
  place: Place,
  order: RecordingOrder,
  stop: AbortSignal,
  onBegun: (facts: TargetFacts) => void
): Promise<Recorded> {
  const inspector = await Inspector.open(place);
  try {
    const facts = await factsOf(inspector);
    const earlier = await clocksOf(inspector);
    const { left } = await exitOf(inspector);
    onBegun(facts);
    const counts = order.kind === 'cpu' && (order.calls ?? 'no') !== 'no';
    // Calls are counted on the main thread alone.
    const workers = order.kind === 'cpu' && !counts ? new WorkerThreads(inspector, order.interval) : null;
    if (order.kind === 'cpu') {
      await inspector.send('Profiler.enable');
      await inspector.send('Profiler.setSamplingInterval', { interval: order.interval });
    }
    await sleep(BEFORE_MS, undefined, { signal: stop }).catch(() => undefined);
    const [start, end] = samplingOf(inspector, order);
    const before = await clocksOf(inspector);
    const cost = order.unmeasured ? null : await samplingCost(inspector, start, end);
    const begun = await clocksOf(inspector);
    const begunMs = performance.now();
    await start();
    await workers?.start();
    const started = order.unmeasured ? await clocksOf(inspector) : undefined;
    const over = sleep(order.seconds * 1000, undefined, { signal: stop }).catch(() => undefined);
    const why = await Promise.race([
      over.then(() => 'over' as const),
      left.then(() => 'leaving' as const),
      inspector.gone.then(() => 'lost' as const)
    ]);
    if (why === 'lost')
      throw new InspectorError(
        'The process ended, or closed its inspector, while it was recorded. Its samples went with it.'
      );
    const ending = order.unmeasured && why === 'over' ? await clocksOf(inspector) : undefined;
    const counted = counts ? await takeCounts(inspector) : '';
    const [reply, ofWorkers] = await Promise.all([end(), workers?.stop() ?? []]);
    // What was delivered is kept, whatever becomes of the process in the next moment; one that wants to exit is let go at once.
    const ended = why === 'leaving' ? undefined : await clocksOf(inspector).catch(() => undefined);
    const profile =
      order.calls === 'alone' ? withoutSamples(0, (performance.now() - begunMs) * 1000) : profileIn(reply);
    const functions = counts ? await functionsOf(inspector, counted, framesIn(profile)) : null;
    return {
      json: functions ? withCalls(profile, functions) : profileOf(facts, profile, ofWorkers),
      handlingUs: handling([begun, started], [ending, ended]),
      isTrace: ofWorkers.length > 0,
      startedAtUs: startOf(reply, begun, order.kind),
      cpuBefore: usage(earlier, before),
      cpuDuring: usage(begun, ended),
      cost
    };
  } finally {
    inspector.close();
  }
}

function profileOf({ pid }: TargetFacts, main: string, ofWorkers: ThreadProfile[]): string {
  if (ofWorkers.length === 0) return main;
  try {
    return writeTraceEvents(pid, [{ name: 'main', profile: main }, ...ofWorkers]);
  } catch (cause) {
    throw new InspectorError(
      `A thread answered with something that is no profile: ${(cause as Error).message}.`
    );
  }
}

/** How samples are begun and ended; the end answers with them. */
function samplingOf(
  inspector: Inspector,
  { kind, interval, calls = 'no' }: RecordingOrder
): (() => Promise<string>)[] {
  if (kind === 'cpu') {
    const start = (): Promise<string> => inspector.send('Profiler.start');
    const end = (): Promise<string> => inspector.send('Profiler.stop', {}, STOP_MS);
    if (calls === 'no') return [start, end];
    if (calls === 'alone') return [() => startCounting(inspector), () => stopCounting(inspector)];
    return [() => start().then(() => startCounting(inspector)), () => stopCounting(inspector).then(end)];
  }
  const order = {
    samplingInterval: interval,
    includeObjectsCollectedByMajorGC: true,
    includeObjectsCollectedByMinorGC: true
  };
  return [
    () => inspector.send('HeapProfiler.startSampling', order),
    () => inspector.send('HeapProfiler.stopSampling', {}, STOP_MS)
  ];
}

/**
 * Settles when the process wants to exit: with this notice it waits until it was asked for what it has, and then let go. Without it `process.exit()`
 * waits for whoever is connected. Source: the inspector protocol of Node.js, domain `NodeRuntime`.
 */
async function exitOf(inspector: Inspector): Promise<{ left: Promise<void> }> {
  const leaving = new Promise<void>((resolve) =>
    inspector.on((text) => {
      if (/^\s*\{\s*"method"\s*:\s*"NodeRuntime\.waitingForDisconnect"/.test(text)) resolve();
    })
  );
  for (const method of ['NodeRuntime.enable', 'NodeRuntime.notifyWhenWaitingForDisconnect'])
    // Other runtimes with this protocol do not know it.
    await inspector.send(method, { enabled: true }).catch(() => undefined);
  // In an object: awaited by itself it would wait for the exit.
  return { left: leaving };
}

/** V8's clock and hrtime are one monotonic clock: their distance to the wall clock dates the start. */
function startOf(reply: string, clocks: Clocks | undefined, kind: RecordingOrder['kind']): number {
  if (!clocks) return Date.now() * 1000;
  const at = reply.lastIndexOf('"startTime":');
  const start = kind === 'cpu' && at >= 0 ? parseFloat(reply.slice(at + 12, at + 40)) : NaN;
  const startedAtUs = Math.round(
    Number.isFinite(start) ? clocks.wall - (clocks.monotonic - start) : clocks.wall
  );
  return inTimeRange(startedAtUs) ? startedAtUs : Math.round(clocks.wall);
}

/** CPU within some stretches, microseconds; null where one of them was not measured. */
function handling(...stretches: (readonly [Clocks | undefined, Clocks | undefined])[]): number | null {
  let sum = 0;
  for (const [from, to] of stretches) {
    if (!from || !to) return null;
    sum += to.cpu.user + to.cpu.system - from.cpu.user - from.cpu.system;
  }
  return sum;
}

function usage(from: Clocks | undefined, to: Clocks | undefined): number | null {
  if (!from || !to || to.monotonic <= from.monotonic) return null;
  const cpu = to.cpu.user + to.cpu.system - from.cpu.user - from.cpu.system;
  return cpu / (to.monotonic - from.monotonic);
}

/**
 * What Node.js says of itself in a diagnostic report, without the environment, and without looking up names of peers, which may take seconds. V8 runs it in
 * the middle of whatever the program computes; its own frames are left out of the stack.
 */
const REPORT = `(() => {
  const { report } = process;
  const before = report.excludeNetwork;
  report.excludeNetwork = true;
  try {
    const made = report.getReport();
    delete made.environmentVariables;
    const own = /getReport|^at <anonymous>:\\d+:\\d+$/;
    const stack = made.javascriptStack.stack;
    made.javascriptStack.stack = stack.slice(stack.findIndex((frame) => !own.test(frame)));
    return made;
  } finally {
    report.excludeNetwork = before;
  }
})()`;

/** Takes what a process does at this moment, as a diagnostic report. @throws InspectorError when the process ends or does not answer. */
export async function dumpThreads(place: Place): Promise<{ json: string; startedAtUs: number }> {
  const inspector = await Inspector.open(place);
  try {
    const clocks = await clocksOf(inspector);
    const report = await inspector.evaluate<object>(REPORT);
    if (typeof report !== 'object') throw new InspectorError('The process gave no diagnostic report.');
    return { json: JSON.stringify(report), startedAtUs: Math.round(clocks?.wall ?? Date.now() * 1000) };
  } finally {
    inspector.close();
  }
}

/** A dump of a large heap takes V8 minutes. */
const DUMP_MS = 10 * 60_000;

export interface Dumped {
  startedAtUs: number;
  /** How long the process stood still for it, milliseconds. */
  stoppedMs: number;
}

/**
 * Takes a heap dump of a process and writes it as it comes: it may be larger than any memory. The process stands still meanwhile.
 * @param stop leaves it; V8 finishes what it has begun.
 * @throws InspectorError when the process ends or does not answer.
 */
export async function dumpHeap(
  place: Place,
  file: string,
  maxBytes: number,
  stop: AbortSignal
): Promise<Dumped> {
  const inspector = await Inspector.open(place);
  const handle = await open(file, 'w');
  let writing: Promise<unknown> = Promise.resolve();
  let bytes = 0;
  try {
    const clocks = await clocksOf(inspector);
    const begun = performance.now();
    inspector.on((text) => {
      const chunk = chunkIn(text);
      if (chunk === null) return;
      const part = Buffer.from(chunk);
      bytes += part.length;
      if (bytes > maxBytes)
        throw new Error(
          `the dump is larger than ${maxBytes} bytes, the limit in the setting TROMIX_MAX_HEAP_BYTES`
        );
      writing = writing.then(() => writeAll(handle, part));
      // What fails is reported at the end; nothing more is asked of a disk that is full.
      writing.catch(() => inspector.close());
    });
    const left = new Promise<never>((_, reject) =>
      stop.addEventListener('abort', () => reject(new InspectorError('It was cancelled.')), { once: true })
    );
    await Promise.race([
      inspector.send('HeapProfiler.takeHeapSnapshot', { reportProgress: false }, DUMP_MS),
      left
    ]);
    const stoppedMs = performance.now() - begun;
    await writing;
    return { startedAtUs: Math.round(clocks?.wall ?? Date.now() * 1000), stoppedMs };
  } catch (cause) {
    // A disk that is full ends the connection: that is why, and not the process.
    await writing;
    throw cause;
  } finally {
    inspector.close();
    await writing.catch(() => undefined);
    await handle.close();
  }
}

/** The part of the dump an event carries; null for other events. */
function chunkIn(text: string): string | null {
  if (!/^\s*\{\s*"method"\s*:\s*"HeapProfiler\.addHeapSnapshotChunk"/.test(text.slice(0, 80))) return null;
  const { chunk } = (JSON.parse(text) as { params?: { chunk?: unknown } }).params ?? {};
  if (typeof chunk !== 'string') throw new Error('a part of the dump is no text');
  return chunk;
}
