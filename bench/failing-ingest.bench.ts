/**
 * Spans a second through `/v1/traces` with an exception in every tenth span, against the same without, in turns and in one run: until acknowledged, and until booked.
 * Run: npx tsx bench/failing-ingest.bench.ts   (needs a build)
 */
import { fork } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { createClient } from '@libsql/client';
import { otlpBatch } from './otlp-batch';

const ROOT = path.resolve(import.meta.dirname, '..');
const BATCHES = 20;
const PORT = 4496;
const SENDERS = 4;
/** Even: each of the two goes first as often, since the database grows on the way. */
const ROUNDS = 8;
const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-bench-'));
const server = fork(path.join(ROOT, 'web/server.mjs'), [], {
  env: { ...process.env, PORT: String(PORT), TROMIX_DATA: folder, TROMIX_SETTLE_MS: '1500' },
  silent: true
});
await new Promise((resolve) => server.once('message', resolve));
const client = createClient({ url: `file:${path.join(folder, 'tromix.sqlite')}` });

async function post(body: Uint8Array): Promise<void> {
  const headers = { 'content-type': 'application/x-protobuf' };
  const response = await fetch(`http://127.0.0.1:${PORT}/v1/traces`, {
    method: 'POST',
    body: body as BodyInit,
    headers
  });
  if (response.status !== 200) throw new Error(`The server answered ${response.status}.`);
  await response.arrayBuffer();
}
async function allBooked(): Promise<void> {
  for (;;) {
    const { rows } = await client.execute('SELECT count(*) FROM pending_traces');
    if (Number(rows[0][0]) === 0) return;
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
}
/** Milliseconds until all is acknowledged, and until all is booked. */
async function ingest(from: number, everyFails: number): Promise<[number, number]> {
  const bodies = Array.from({ length: BATCHES }, (_, i) => otlpBatch(from + i, everyFails));
  const begun = performance.now();
  let next = 0;
  const sender = async (): Promise<void> => {
    while (next < bodies.length) await post(bodies[next++]);
  };
  await Promise.all(Array.from({ length: SENDERS }, sender));
  const stored = performance.now() - begun;
  await allBooked();
  return [stored, performance.now() - begun];
}

await ingest(0, 0);
await ingest(100, 10);
const ratios: [number, number][] = [];
for (let round = 0; round < ROUNDS; round++) {
  const kinds = round % 2 === 0 ? [0, 10] : [10, 0];
  const first = await ingest(1000 + round * 200, kinds[0]);
  const second = await ingest(1100 + round * 200, kinds[1]);
  const [plain, failing] = kinds[0] === 0 ? [first, second] : [second, first];
  ratios.push([plain[0] / failing[0], plain[1] / failing[1]]);
  console.log(
    `acknowledged ${plain[0].toFixed(0)} ms without, ${failing[0].toFixed(0)} with; booked ${plain[1].toFixed(0)} and ${failing[1].toFixed(0)}`
  );
}
for (const [i, name] of ['acknowledged', 'booked'].entries()) {
  const sorted = ratios.map((of) => of[i]).sort((a, b) => a - b);
  const middle = (sorted[ROUNDS / 2 - 1] + sorted[ROUNDS / 2]) / 2;
  console.log(
    `${name}: ${middle.toFixed(2)} of the rate without exceptions (${sorted[0].toFixed(2)} to ${sorted.at(-1)!.toFixed(2)}), must be at least 0.85`
  );
}
client.close();
server.kill('SIGTERM');
await new Promise((resolve) => server.once('exit', resolve));
rmSync(folder, { recursive: true, force: true });
