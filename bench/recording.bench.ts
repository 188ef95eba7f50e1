/**
 * What recording costs services of the demo: the median of requests to the tides and to the berths while every call is counted against without, in turns; and
 * the default plan (10 s of every minute, a sample every 10 ms), parts of a core, as the recorder measures it.
 * Run: npx tsx --tsconfig bench/tsconfig.json bench/recording.bench.ts
 */
import { fork } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:http';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { planCost, type Costed } from '../web/src/lib/server/record/plan-cost';
import type { SlicePlan } from '../web/src/lib/server/record/plan-schema';
import { record, type RecordingOrder } from '../web/src/lib/server/record/record';

const ROOT = path.resolve(import.meta.dirname, '..');
const FIRST_PORT = 4720;
const INSPECTORS = FIRST_PORT + 100;
const ROUNDS = 5;
const SECONDS = 6;
const SLICES = 4;
const never = new AbortController().signal;

/** By their place in the fleet. */
const SERVICES = [
  { name: 'berths', at: 1, method: 'POST', path: (i: number) => `/calls/${1 + (i % 60)}/berth` },
  { name: 'tides', at: 2, method: 'GET', path: (i: number) => `/tides/window?station=${i}` }
];

let asked = 100_000;
/** Durations of requests, one after another with a pause, until it is told to stop. */
async function ask(service: (typeof SERVICES)[number], until: Promise<unknown>): Promise<number[]> {
  const took: number[] = [];
  let over = false;
  void until.finally(() => (over = true));
  while (!over) {
    const begun = performance.now();
    const answer = await fetch(`http://127.0.0.1:${FIRST_PORT + service.at}${service.path(asked++)}`, {
      method: service.method
    });
    await answer.text();
    took.push(performance.now() - begun);
    await sleep(20);
  }
  return took;
}

const median = (list: readonly number[]): number => list.toSorted((a, b) => a - b)[list.length >> 1];
const spread = (list: readonly number[]): string => {
  const sorted = list.toSorted((a, b) => a - b);
  return `${median(list).toFixed(2)} (${sorted[0].toFixed(2)} to ${sorted.at(-1)!.toFixed(2)})`;
};
const recordingOf = (at: number, order: Partial<RecordingOrder>): ReturnType<typeof record> =>
  record(
    { host: '127.0.0.1', port: INSPECTORS + at },
    { kind: 'cpu', seconds: SECONDS, interval: 10_000, unmeasured: true, ...order },
    never,
    () => undefined
  );

async function counted(service: (typeof SERVICES)[number]): Promise<void> {
  await ask(service, sleep(4000));
  const ratios: number[] = [];
  for (let round = 0; round < ROUNDS; round++) {
    const without = median(await ask(service, sleep(SECONDS * 1000)));
    const counting = recordingOf(service.at, { calls: 'alone' });
    // Counting begins a second after the order.
    await sleep(1300);
    const during = median(await ask(service, sleep((SECONDS - 1) * 1000)));
    await counting;
    ratios.push(during / without);
  }
  console.log(`every call counted, median of ${service.name}: ${spread(ratios)} times that without`);
}

async function planned(service: (typeof SERVICES)[number]): Promise<void> {
  const recorded: Costed[] = [];
  const asking = (async () => {
    for (let slice = 0; slice <= SLICES; slice++) {
      const unmeasured = slice > 0;
      const { cost, cpuDuring, handlingUs } = await recordingOf(service.at, { seconds: 10, unmeasured });
      recorded.push({
        state: 'saved',
        costLow: cost?.low ?? null,
        costHigh: cost?.high ?? null,
        cpuDuring,
        handlingUs,
        startedAtUs: slice
      });
    }
  })();
  await ask(service, asking);
  const plan = {
    seconds: 10,
    when: { by: 'always', everyMinutes: 1, budget: 0.01, inTurn: '' }
  } as SlicePlan;
  const each = recorded.slice(1).map((one) => 100 * planCost(plan, [recorded[0], one])!);
  console.log(`the default plan at ${service.name}: ${spread(each)} % of a core`);
}

const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-bench-'));
// Traces go where they are taken and forgotten.
const sink = createServer((request, response) => request.resume().on('end', () => response.end('{}'))).listen(
  4719,
  '127.0.0.1'
);
const fleet = fork('run.mjs', ['src/live.ts'], {
  cwd: path.join(ROOT, 'workload'),
  env: {
    ...process.env,
    QH_OTLP: 'http://127.0.0.1:4719',
    QH_DATA: folder,
    QH_FIRST_PORT: String(FIRST_PORT),
    QH_USERS: '0'
  },
  execArgv: [],
  silent: true
});
try {
  await new Promise((resolve, reject) => fleet.once('message', resolve).once('exit', reject));
  for (const service of SERVICES) await counted(service);
  for (const service of SERVICES) await planned(service);
} finally {
  fleet.kill('SIGTERM');
  sink.close();
  rmSync(folder, { recursive: true, force: true });
}
process.exit(0);
