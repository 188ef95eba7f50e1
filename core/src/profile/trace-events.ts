import { damagedJson, parseJson } from '../formats/parse-json';
import { EvidenceError, Warnings, type Warning } from '../formats/evidence-error';
import type { FileHead } from '../formats/file-head';
import { combineProfiles, type NamedProfile } from './combine';
import { FrameTable, type V8CallFrame } from './frame-table';
import type { Profile } from './model';
import { profileOfDocument } from './v8-cpu';
import { noNodes, type V8Document } from './v8-document';

/** An event of the trace event format, as far as it is read here; times are microseconds. */
interface TraceEvent {
  name?: string;
  ph?: string;
  id?: string | number;
  pid?: number;
  tid?: number;
  args?: { name?: string; data?: ProfileData };
}

/** What Chromium writes into events called `Profile` (the beginning) and `ProfileChunk` (what came since). */
interface ProfileData {
  startTime?: number;
  endTime?: number;
  timeDeltas?: number[];
  /** By sample: the line at which it was, 1-based; 0 and below where none is known. */
  lines?: number[];
  cpuProfile?: {
    nodes?: {
      id?: number;
      parent?: number;
      callFrame?: V8CallFrame;
      /** Of writers that know lines by node, not by sample. */
      positionTicks?: { line: number; ticks: number }[];
    }[];
    samples?: number[];
    endTime?: number;
  };
}

/** True for trace events: an object with a list of them, or the list alone. */
export const looksLikeTraceEvents = ({ text }: Pick<FileHead, 'text'>): boolean =>
  /^\{[^[]*"traceEvents"\s*:/s.test(text) ||
  (/^(?:\{.*?)?\[\s*\{/s.test(text) && /"ph"\s*:\s*"/.test(text) && /"pid"\s*:/.test(text));

/**
 * Reads the CPU samples of a browser's trace (trace event format, JSON): each profiled thread of each process is a thread of its own.
 * Everything else in the trace is passed over.
 * @param content the file's bytes, UTF-8, not gzip.
 * @throws EvidenceError `json-damaged`, `not-a-profile` where it has no samples.
 */
export function readTraceEvents(content: Uint8Array): { profile: Profile; warnings: Warning[] } {
  const events = parse(content);
  const warnings = new Warnings();
  const threads = new Map<string, ThreadSamples>();
  const names = new Map<string, string>();
  for (const event of events) {
    if (event === null || typeof event !== 'object') continue;
    const { name, ph, args } = event;
    if (ph === 'M' && typeof args?.name === 'string')
      names.set(`${name} ${event.pid} ${event.tid}`, args.name);
    if (ph !== 'P' || (name !== 'Profile' && name !== 'ProfileChunk')) continue;
    const key = `${event.pid} ${String(event.id)}`;
    let thread = threads.get(key);
    if (!thread) threads.set(key, (thread = new ThreadSamples(event)));
    // Chunks are written by another thread than the one that is sampled: the beginning names it.
    if (name === 'Profile') thread.event = event;
    thread.add(args?.data ?? {});
  }
  const parts = [...threads.values()].filter(({ document }) => document.samples.length > 0);
  warnings.add(
    'empty-thread',
    'A thread that was to be sampled has no samples: it may have ended before the recording did, and took them with it.',
    threads.size - parts.length
  );
  if (parts.length === 0)
    throw new EvidenceError(
      'not-a-profile',
      'The trace holds no CPU samples. Record it with the category disabled-by-default-v8.cpu_profiler.'
    );
  if (parts.length > MAX_THREADS)
    throw new EvidenceError(
      'too-many-parts',
      `The trace samples ${parts.length} threads; at most ${MAX_THREADS} are read. Record fewer.`
    );
  const firstUs = Math.min(...parts.map(({ document }) => document.startTime));
  const named = parts.map((part): NamedProfile => {
    const { document, event } = part;
    return {
      name: threadName(event, names),
      profile: profileOfDocument(part.finish(), warnings),
      offsetNs: (document.startTime - firstUs) * 1000
    };
  });
  return {
    profile: { ...combineProfiles(named), threads: named.map(({ name }) => name) },
    warnings: warnings.list()
  };
}

/** What is read of a trace, as a trace: requests, screenshots and input that it may hold as well are nobody's business here. */
export function samplesOfTrace(content: Uint8Array): string {
  const read = parse(content).filter(
    (event) =>
      event !== null &&
      typeof event === 'object' &&
      (event.name === 'Profile' || event.name === 'ProfileChunk' || NAMING.test(event.name ?? ''))
  );
  return JSON.stringify({ traceEvents: read });
}
/** More than a machine runs at once. */
const MAX_THREADS = 1000;

const NAMING = /^(?:thread|process)_name$/;

function threadName({ pid, tid }: TraceEvent, names: ReadonlyMap<string, string>): string {
  const thread = names.get(`thread_name ${pid} ${tid}`) ?? `thread ${tid}`;
  const process = [...names].find(([key]) => key.startsWith(`process_name ${pid} `))?.[1];
  return process === undefined ? thread : `${process} ${pid}, ${thread}`;
}

/** Chunks of one thread's samples, put together. */
class ThreadSamples {
  event: TraceEvent;
  readonly #table = new FrameTable();
  /** By node: how often each line was the one being run. */
  readonly #lines = new Map<number, Map<number, number>>();
  readonly #samples: number[] = [];
  readonly #deltas: number[] = [];
  readonly document: V8Document = {
    nodes: { ...noNodes(), frames: this.#table.frames },
    calls: null,
    startTime: 0,
    endTime: 0,
    samples: this.#samples,
    timeDeltas: this.#deltas
  };

  constructor(event: TraceEvent) {
    this.event = event;
  }

  add({ startTime, endTime, timeDeltas = [], lines = [], cpuProfile = {} }: ProfileData): void {
    const { nodes } = this.document;
    if (typeof startTime === 'number') this.document.startTime = startTime;
    const end = endTime ?? cpuProfile.endTime;
    if (typeof end === 'number') this.document.endTime = end;
    for (const { id, parent, callFrame, positionTicks = [] } of cpuProfile.nodes ?? []) {
      if (typeof id !== 'number' || !callFrame) continue;
      nodes.id.push(id);
      nodes.parent.push(typeof parent === 'number' ? parent : NaN);
      nodes.frame.push(this.#table.ofCall(callFrame));
      nodes.childStart.push(0);
      for (const { line, ticks } of positionTicks) this.#line(id, line, ticks);
    }
    (cpuProfile.samples ?? []).forEach((node, i) => {
      this.#samples.push(node);
      if (lines[i] > 0) this.#line(node, lines[i], 1);
    });
    for (const delta of timeDeltas) this.#deltas.push(delta);
  }

  finish(): V8Document {
    const { document } = this;
    const { nodes } = document;
    for (const id of nodes.id) {
      for (const [line, ticks] of this.#lines.get(id) ?? []) {
        nodes.tickLine.push(line);
        nodes.ticks.push(ticks);
      }
      nodes.tickStart.push(nodes.tickLine.length);
    }
    const lastUs = document.startTime + this.#deltas.reduce((sum, delta) => sum + delta, 0);
    document.endTime = Math.max(document.endTime, lastUs);
    return document;
  }

  #line(node: number, line: number, ticks: number): void {
    let lines = this.#lines.get(node);
    if (!lines) this.#lines.set(node, (lines = new Map()));
    lines.set(line, (lines.get(line) ?? 0) + ticks);
  }
}

function parse(content: Uint8Array): TraceEvent[] {
  let raw: unknown;
  try {
    raw = parseJson(new TextDecoder().decode(content));
  } catch (cause) {
    throw damagedJson(cause, 'trace events in JSON', 'Save the trace again whole.');
  }
  const events = Array.isArray(raw) ? raw : (raw as { traceEvents?: unknown } | null)?.traceEvents;
  if (!Array.isArray(events))
    throw new EvidenceError('not-a-profile', 'Expected a list of trace events, but the JSON has none.');
  return events as TraceEvent[];
}
