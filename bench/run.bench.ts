/**
 * What `tromix run` costs: an HTTP service that makes 20 database calls a request, under the plain OpenTelemetry SDK with the same instrumentations and
 * under `tromix run`, in turns; and bare, to tell what the SDK itself costs.
 */
import { fork, spawn, type ChildProcess } from 'node:child_process';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import path from 'node:path';
import { figuresOf, type LoadFigures } from '../core/src/load/figures';
import { readPlan } from '../core/src/load/plan';
import { Samples } from '../core/src/load/samples';
import { sendRun } from '../load/src/send';

const ROOT = path.resolve(import.meta.dirname, '..');
const BOARD = path.join(ROOT, 'run/fixtures/board');
const ROUNDS = 5;
const [PORT, DATABASE_PORT] = [4871, 4872];

/** Takes every batch, as Tromix would. */
const sink = http.createServer((request, response) => {
  request.resume();
  request.on('end', () => response.writeHead(200, { 'content-type': 'application/x-protobuf' }).end());
});
await new Promise<void>((resolve) => sink.listen(0, '127.0.0.1', resolve));
const sinkAddress = `http://127.0.0.1:${(sink.address() as AddressInfo).port}`;

const WAYS: Record<string, () => ChildProcess> = {
  bare: () => start(process.execPath, ['server.mjs']),
  plain: () =>
    start(process.execPath, ['--require', path.join(ROOT, 'run/fixtures/plain-sdk.cjs'), 'server.mjs'], {
      OTEL_EXPORTER_OTLP_ENDPOINT: sinkAddress
    }),
  run: () =>
    start(process.execPath, [
      path.join(ROOT, 'cli/bin/tromix.mjs'),
      'run',
      '--to',
      sinkAddress,
      '--',
      process.execPath,
      'server.mjs'
    ])
};

function start(command: string, args: string[], env: NodeJS.ProcessEnv = {}): ChildProcess {
  return spawn(command, [...args, String(PORT), String(DATABASE_PORT)], {
    cwd: BOARD,
    env: { ...process.env, ...env },
    stdio: 'ignore'
  });
}

async function drive(seconds: number): Promise<LoadFigures> {
  const read = readPlan({
    steps: [{ url: `http://127.0.0.1:${PORT}/board/north` }],
    users: 2,
    loops: 0,
    seconds
  });
  if (!read.ok) throw new Error(read.message);
  const samples = new Samples();
  await sendRun({
    key: '00000000000000aa',
    plan: read.plan,
    targets: [],
    onSample: (sample) => samples.add(sample),
    signal: new AbortController().signal
  });
  return figuresOf(samples, false);
}

async function measure(way: string): Promise<LoadFigures> {
  const service = WAYS[way]();
  for (let tries = 0; ; tries++) {
    const answered = await fetch(`http://127.0.0.1:${PORT}/board/north`).then(
      ({ ok }) => ok,
      () => false
    );
    if (answered) break;
    if (tries > 100) throw new Error(`The service does not come up: ${way}.`);
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
  await drive(2);
  const figures = await drive(6);
  const gone = new Promise((resolve) => service.once('exit', resolve));
  service.kill('SIGTERM');
  await gone;
  return figures;
}

const database = fork(path.join(BOARD, 'database.mjs'), [String(DATABASE_PORT)]);
await new Promise((resolve) => database.once('message', resolve));
const rounds: Record<string, LoadFigures>[] = [];
for (let round = 0; round < ROUNDS; round++) {
  const figures: Record<string, LoadFigures> = {};
  for (const way of Object.keys(WAYS)) figures[way] = await measure(way);
  rounds.push(figures);
  console.log(
    Object.entries(figures)
      .map(
        ([way, { medianUs, p95Us, samples, failed }]) =>
          `${way} ${(medianUs / 1000).toFixed(2)} / ${(p95Us / 1000).toFixed(2)} ms (${samples}, ${failed} failed)`
      )
      .join(', ')
  );
}
const ratio = (of: 'medianUs' | 'p95Us', way: string, against: string): string => {
  const sorted = rounds.map((round) => round[way][of] / round[against][of]).sort((a, b) => a - b);
  return `${sorted[Math.floor(sorted.length / 2)].toFixed(2)} (${sorted[0].toFixed(2)} to ${sorted.at(-1)!.toFixed(2)})`;
};
console.log(
  `tromix run against the plain SDK, p50: ${ratio('medianUs', 'run', 'plain')}, must be at most 1.25`
);
console.log(`tromix run against the plain SDK, p95: ${ratio('p95Us', 'run', 'plain')}, must be at most 1.4`);
console.log(`the plain SDK against nothing, p50: ${ratio('medianUs', 'plain', 'bare')}`);
database.kill();
sink.close();
process.exit(0);
