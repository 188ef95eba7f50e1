/**
 * A large heap dump in the running server: how the overview answers while it is indexed, how soon its index is open again after a restart,
 * and how soon each kind of click in it is answered. Needs the built application. `HEAP=small` takes a dump of a fifth.
 */
import { fork, type ChildProcess } from 'node:child_process';
import { createReadStream, mkdtempSync, rmSync, statSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { performance } from 'node:perf_hooks';
import { Readable } from 'node:stream';
import { SERVER_ENV } from '../web/server-env.mjs';
import { quantileSorted } from '../core/src/stats/percentile';
import { snapshotDump } from './fill-heap';

const ROOT = path.resolve(import.meta.dirname, '..');
const PORT = 4495;
const ADDRESS = `http://127.0.0.1:${PORT}`;
const WINDOWS = process.env.HEAP === 'small' ? 100_000 : 480_000;
const ROUNDS = 12;
const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-heap-open-'));

async function start(): Promise<ChildProcess> {
  const server = fork(path.join(ROOT, 'web/server.mjs'), [], {
    env: { ...SERVER_ENV, ...process.env, PORT: String(PORT), TROMIX_DATA: path.join(folder, 'data') },
    silent: true
  });
  await new Promise((resolve) => server.once('message', resolve));
  return server;
}
async function stop(server: ChildProcess): Promise<void> {
  server.kill('SIGTERM');
  await new Promise((resolve) => server.once('exit', resolve));
}
const took = async (work: () => Promise<unknown>): Promise<number> => {
  const begun = performance.now();
  await work();
  return performance.now() - begun;
};
async function ask(id: string, question: object): Promise<Record<string, unknown>> {
  const response = await fetch(`${ADDRESS}/api/heap/${id}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', origin: ADDRESS },
    body: JSON.stringify(question)
  });
  if (!response.ok)
    throw new Error(`${JSON.stringify(question)}: ${response.status} ${await response.text()}`);
  return (await response.json()) as Record<string, unknown>;
}
const figures = (times: number[]): string => {
  const sorted = times.toSorted((a, b) => a - b);
  return `p50 ${quantileSorted(sorted, 0.5).toFixed(0)} ms, p95 ${quantileSorted(sorted, 0.95).toFixed(0)} ms, worst ${sorted.at(-1)!.toFixed(0)} ms of ${sorted.length}`;
};

const file = path.join(folder, 'fill.heapsnapshot');
snapshotDump(file, WINDOWS);
let server = await start();
try {
  const sent = await fetch(`${ADDRESS}/api/evidence?service=tides`, {
    method: 'POST',
    headers: { origin: ADDRESS },
    body: Readable.toWeb(createReadStream(file)) as unknown as BodyInit,
    duplex: 'half'
  } as RequestInit);
  const { id } = (await sent.json()) as { id: string };
  const state = async (): Promise<string> =>
    ((await (await fetch(`${ADDRESS}/api/heap/${id}`)).json()) as { state: string }).state;
  const meanwhile: number[] = [];
  const begun = performance.now();
  while ((await state()) !== 'ready')
    meanwhile.push(await took(async () => (await fetch(`${ADDRESS}/__data.json?last=24h`)).text()));
  const indexed = performance.now() - begun;
  console.log(
    `V8 snapshot of ${(statSync(file).size / 1e6).toFixed(0)} MB: indexed in the running server in ${(indexed / 1000).toFixed(1)} s`
  );
  console.log(`  the overview meanwhile (under 300 ms): ${figures(meanwhile)}`);

  await stop(server);
  server = await start();
  await (await fetch(`${ADDRESS}/api/heap/${id}`)).text();
  const opened = await took(() => ask(id, { ask: 'overview' }));
  console.log(`  its index opened again (under 1 s): ${(opened / 1000).toFixed(2)} s`);

  const { boxes } = (await ask(id, { ask: 'overview' })) as { boxes: { object: number }[] };
  const largest = (await ask(id, { ask: 'search', name: 'Window' })) as { rows: { object: number }[] };
  const objects = [boxes[0].object, ...largest.rows.slice(0, ROUNDS).map(({ object }) => object)];
  const clicks: [string, (i: number) => object][] = [
    ['classes', () => ({ ask: 'classes' })],
    ['an object', (i) => ({ ask: 'object', object: objects[i % objects.length] })],
    ['its path from a root', (i) => ({ ask: 'path', object: objects[i % objects.length] })],
    ['what it keeps', (i) => ({ ask: 'kept', object: objects[i % objects.length] })],
    ['who refers to it', (i) => ({ ask: 'referrers', object: objects[i % objects.length] })],
    ['objects of a class', (i) => ({ ask: 'search', name: i % 2 ? 'Window' : 'Object' })],
    ['objects of a least size', (i) => ({ ask: 'search', name: '', least: 10 ** (2 + (i % 4)) })],
    ['objects by their text', (i) => ({ ask: 'search', name: '', value: `window ${70_000 + i}` })],
    ['roots', () => ({ ask: 'roots' })],
    ['duplicate strings', () => ({ ask: 'strings' })]
  ];
  const all: number[] = [];
  for (const [what, question] of clicks) {
    const times: number[] = [];
    for (let i = 0; i < ROUNDS; i++) times.push(await took(() => ask(id, question(i))));
    all.push(...times);
    console.log(`  ${what.padEnd(26)} ${figures(times)}`);
  }
  console.log(`  all clicks (within 200 ms): ${figures(all)}`);
} finally {
  await stop(server);
  rmSync(folder, { recursive: true, force: true });
}
