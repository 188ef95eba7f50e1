/**
 * The load driver: how many requests a second it sends with one core’s time, how late it is at half of what is wanted, how exact its times are against a
 * server that sleeps a known time, and what an open and a closed model say of a server that stands still for 1 s in every 10.
 */
import { fork, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import net from 'node:net';
import path from 'node:path';
import { figuresOf, latenessOf } from '../core/src/load/figures';
import { isOpen, readPlan, type LoadPlanInput } from '../core/src/load/plan';
import { setTimeout as sleep } from 'node:timers/promises';
import { Worker } from 'node:worker_threads';
import { quantiles } from '../core/src/stats/percentile';
import { Samples } from '../core/src/load/samples';
import type { SenderData, SenderMessage } from '../load/src/sender-thread';
import { startSending } from '../load/src/sending-thread';

const STUB = path.join(import.meta.dirname, 'load-stub.ts');
const SENDER = path.join(import.meta.dirname, '../load/build/sender.cjs');
const ROUNDS = 3;

async function stub(...args: string[]): Promise<{ url: string; process: ChildProcess }> {
  const process = fork(STUB, args, {
    // A pause of its own collector would be taken for one of the driver.
    execArgv: ['--no-memory-reducer', '--import', 'tsx']
  });
  const port = await new Promise<number>((resolve) => process.once('message', (at) => resolve(Number(at))));
  return { url: `http://127.0.0.1:${port}/`, process };
}

/** Runs a plan against a server, and says what it measured and what it took. */
async function drive(
  server: string[],
  input: Omit<LoadPlanInput, 'steps'>
): Promise<{ samples: Samples; open: boolean; perSecond: number; perCoreSecond: number }> {
  const { url, process: child } = await stub(...server);
  const read = readPlan({ ...input, steps: [{ url }] });
  if (!read.ok) throw new Error(read.message);
  const samples = new Samples();
  const workerData: SenderData = { key: '00000000000000aa', plan: read.plan, targets: [], port: null };
  // As the command line starts it.
  const thread = startSending(
    (resourceLimits) => new Worker(SENDER, { workerData, resourceLimits, execArgv: [] })
  );
  let cpu = process.cpuUsage();
  const endUs = await new Promise<number>((resolve) =>
    thread.on('message', (message: SenderMessage) => {
      if ('begunAtUs' in message) cpu = process.cpuUsage();
      else if ('ended' in message) resolve(message.ended.endUs);
      else samples.addPacked(message.samples);
    })
  );
  const { user, system } = process.cpuUsage(cpu);
  await thread.terminate();
  child.kill();
  return {
    samples,
    open: isOpen(read.plan),
    perSecond: (samples.length / endUs) * 1e6,
    perCoreSecond: (samples.length / (user + system)) * 1e6
  };
}

const spread = (values: number[], unit: string, digits = 0): string => {
  if (values.length === 0) return 'not measured: no round was quiet';
  const sorted = values.toSorted((a, b) => a - b);
  const say = (value: number): string => value.toFixed(digits);
  return `${say(sorted[Math.floor(sorted.length / 2)])} ${unit} (${say(sorted[0])} to ${say(sorted.at(-1)!)})`;
};
const rounds = async <T>(work: () => Promise<T>): Promise<T[]> => {
  const results: T[] = [];
  for (let round = 0; round < ROUNDS; round++) results.push(await work());
  return results;
};

/** How late a timer of 1 ms is in a process that does nothing else, p99 in ms: what this machine adds to everything. */
async function timersLate(seconds = 3): Promise<number> {
  const late: number[] = [];
  const end = performance.now() + seconds * 1000;
  for (let due = performance.now() + 1; due < end; due = performance.now() + 1) {
    await sleep(1);
    late.push(performance.now() - due);
  }
  return quantiles(late, [0.99])[0];
}

/** A machine whose own timers are later than this measures itself. */
const QUIET_MS = 1.5;
const MOST_TRIES = 30;
/** What was measured while the machine was quiet, before and after; rounds in which it was not are dropped, and counted. */
async function quietRounds<T>(work: () => Promise<T>): Promise<T[]> {
  const kept: T[] = [];
  let dropped = 0;
  while (kept.length < ROUNDS && dropped < MOST_TRIES) {
    const before = await timersLate(1);
    const result = before > QUIET_MS ? null : await work();
    if (result !== null && (await timersLate(1)) <= QUIET_MS) kept.push(result);
    else dropped++;
  }
  console.log(
    `of the next: ${kept.length} rounds on a quiet machine (a plain timer late by at most ${QUIET_MS} ms at p99), ${dropped} dropped`
  );
  return kept;
}

const full = await rounds(() => drive(['at-once'], { users: 20, loops: 0, seconds: 6 }));
console.log(
  `sent per second of one core’s time: ${spread(
    full.map(({ perCoreSecond }) => perCoreSecond),
    'requests'
  )}, must reach 5000; per second of the clock ${spread(
    full.map(({ perSecond }) => perSecond),
    'requests'
  )}`
);

const half = await quietRounds(() => drive(['at-once'], { rate: 2500, loops: 0, seconds: 6 }));
console.log(
  `late at 2500 a second, p99: ${spread(
    half.map(({ samples }) => latenessOf(samples).p99Us / 1000),
    'ms',
    2
  )}, must stay under 5 ms`
);

const SLEEP_MS = 50;
// One request at a time: the server waits out the last of each sleep, and would hear of another too late.
const exact = await quietRounds(() =>
  drive(['sleep', String(SLEEP_MS)], { rate: 15, loops: 0, seconds: 30 })
);
/** How long the server says it slept, by the length of its answers, milliseconds. */
const slept = (samples: Samples): Float64Array =>
  samples.column('bytes').map((lateUs) => SLEEP_MS + lateUs / 1000);
for (const [name, of, p] of [
  ['p50', 'medianUs', 0.5],
  ['p99', 'p99Us', 0.99]
] as const)
  console.log(
    `${name} against a server that sleeps ${SLEEP_MS} ms (as it says itself ${spread(
      exact.map(({ samples }) => quantiles(slept(samples), [p])[0]),
      'ms',
      2
    )}) differs by ${spread(
      exact.map(
        ({ samples, open }) => figuresOf(samples, open)[of] / 1000 - quantiles(slept(samples), [p])[0]
      ),
      'ms',
      2
    )}, must be under 2 ms`
  );

/** The same server asked over a plain socket, one request after another: what this machine itself adds, ms, as differences of the p50 and the p99. */
async function plainSocket(): Promise<number[]> {
  const { url, process: child } = await stub('sleep', String(SLEEP_MS));
  const socket = net.connect(Number(new URL(url).port), '127.0.0.1').setNoDelay(true);
  const [took, own]: [number[], number[]] = [[], []];
  for (let i = 0; i < 400; i++) {
    const begun = performance.now();
    socket.write('GET / HTTP/1.1\r\nhost: stub\r\n\r\n');
    const [answer] = (await once(socket, 'data')) as [Buffer];
    took.push(performance.now() - begun);
    own.push(SLEEP_MS + Number(/content-length: (\d+)/.exec(answer.toString('latin1'))![1]) / 1000);
    await sleep(15);
  }
  socket.destroy();
  child.kill();
  return [0.5, 0.99].map((p) => quantiles(took, [p])[0] - quantiles(own, [p])[0]);
}
const plain = await quietRounds(plainSocket);
for (const [i, name] of ['p50', 'p99'].entries())
  console.log(
    `a plain socket: ${name} differs by ${spread(
      plain.map((of) => of[i]),
      'ms',
      2
    )}`
  );

// Of arrivals at an even rate a tenth meets the stall; what is left of it is even from 0 to 1 s: P(wait > t) = (1 − t) / 10, which is 1 % at 0.9 s.
const EXPECTED_P99_MS = 900;
const p99 = ({ samples, open }: Awaited<ReturnType<typeof drive>>): number =>
  figuresOf(samples, open).p99Us / 1000;
const open = await rounds(() => drive(['stall'], { rate: 100, loops: 0, seconds: 20 }));
const closed = await drive(['stall'], { users: 5, loops: 0, seconds: 20, pauseSeconds: 0.05 });
console.log(
  `p99 of a server that stands still for 1 s in 10, in the open model: ratio ${spread(
    open.map((run) => p99(run) / EXPECTED_P99_MS),
    'to the arithmetic',
    3
  )}, must be within 0.95 to 1.05; the closed model says ${p99(closed).toFixed(1)} ms`
);
