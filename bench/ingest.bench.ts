/**
 * Spans a second through `/v1/traces` (protobuf, batches of 5,000, HTTP and all) against a bare multi-row insert of the
 * same rows into the same database file layout, in one run: from one sender that waits for each answer, and from several at
 * once, as services send; in turns, several times, since machines are noisy. Also: how the overview answers meanwhile.
 */
import { fork } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { performance } from 'node:perf_hooks';
import { createClient } from '@libsql/client';
import { otlpBatch, SPANS } from './otlp-batch';

const ROOT = path.resolve(import.meta.dirname, '..');
const BATCHES = 24;
const PORT = 4499;
const SENDERS = 4;
const ROUNDS = 3;
const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-bench-'));

interface Round {
  oneSender: number;
  stored: number;
  booked: number;
  bare: number;
}

async function throughServer(): Promise<{ rounds: Round[]; answers: number[] }> {
  const server = fork(path.join(ROOT, 'web/server.mjs'), [], {
    env: {
      ...process.env,
      PORT: String(PORT),
      TROMIX_DATA: path.join(folder, 'server'),
      TROMIX_SETTLE_MS: '1500'
    },
    silent: true
  });
  await new Promise((resolve) => server.once('message', resolve));
  const address = `http://127.0.0.1:${PORT}`;
  const post = async (body: Uint8Array): Promise<void> => {
    const headers = { 'content-type': 'application/x-protobuf' };
    const response = await fetch(`${address}/v1/traces`, { method: 'POST', body: body as BodyInit, headers });
    if (response.status !== 200) throw new Error(`The server answered ${response.status}.`);
    await response.arrayBuffer();
  };
  const client = createClient({ url: `file:${path.join(folder, 'server/tromix.sqlite')}` });
  const allBooked = async (): Promise<void> => {
    for (;;) {
      const { rows } = await client.execute('SELECT count(*) FROM pending_traces');
      if (Number(rows[0][0]) === 0) return;
      await new Promise((resolve) => setTimeout(resolve, 20));
    }
  };
  const overview = async (): Promise<void> => void (await (await fetch(`${address}/__data.json`)).text());
  const batches = (from: number, count: number): Uint8Array[] =>
    Array.from({ length: count }, (_, i) => otlpBatch(from + i));

  // Both have run before: their code is loaded.
  await post(otlpBatch(900));
  for (let i = 0; i < 3; i++) await overview();
  await allBooked();

  const rounds: Round[] = [];
  for (let round = 0; round < ROUNDS; round++) {
    const single = batches(1000 + round * 100, BATCHES);
    const first = performance.now();
    for (const body of single) await post(body);
    const oneSender = performance.now() - first;
    await allBooked();

    const bodies = batches(2000 + round * 100, BATCHES);
    const begun = performance.now();
    let next = 0;
    const sender = async (): Promise<void> => {
      while (next < bodies.length) await post(bodies[next++]);
    };
    await Promise.all(Array.from({ length: SENDERS }, sender));
    const stored = performance.now() - begun;
    await allBooked();
    const booked = performance.now() - begun;
    rounds.push({ oneSender, stored, booked, bare: await bareInsert() });
  }

  // Another import, while somebody looks at the overview.
  const more = batches(0, BATCHES / 2);
  let importing = true;
  const answers: number[] = [];
  const watching = (async () => {
    while (importing) {
      const asked = performance.now();
      await overview();
      answers.push(performance.now() - asked);
      await new Promise((resolve) => setTimeout(resolve, 60));
    }
  })();
  for (const body of more) await post(body);
  await allBooked();
  importing = false;
  await watching;
  client.close();
  server.kill('SIGTERM');
  await new Promise((resolve) => server.once('exit', resolve));
  return { rounds, answers: answers.sort((a, b) => a - b) };
}

/** The very rows the server stored, by multi-row VALUES of 500 through the client, into a table of the same shape. */
async function bareInsert(): Promise<number> {
  const source = createClient({
    url: `file:${path.join(folder, 'server/tromix.sqlite')}`,
    intMode: 'number'
  });
  const { rows, columns } = await source.execute(`SELECT * FROM spans LIMIT ${BATCHES * SPANS}`);
  const [{ sql }] = (await source.execute("SELECT sql FROM sqlite_master WHERE name = 'spans'"))
    .rows as unknown as { sql: string }[];
  source.close();
  const client = createClient({ url: `file:${path.join(folder, 'bare.sqlite')}` });
  await client.execute('PRAGMA journal_mode = WAL');
  await client.execute(sql);
  const one = `(${columns.map(() => '?').join(', ')})`;
  const begun = performance.now();
  for (let at = 0; at < rows.length; at += SPANS) {
    const statements = [];
    for (let i = at; i < Math.min(rows.length, at + SPANS); i += 500) {
      const part = rows.slice(i, i + 500);
      statements.push({
        sql: `INSERT INTO spans VALUES ${part.map(() => one).join(', ')}`,
        args: part.flatMap((row) => columns.map((_, c) => row[c] as string | number | null))
      });
    }
    await client.batch(statements, 'write');
  }
  const took = performance.now() - begun;
  client.close();
  for (const end of ['', '-wal', '-shm']) rmSync(path.join(folder, `bare.sqlite${end}`), { force: true });
  return (took / rows.length) * BATCHES * SPANS;
}

const { rounds, answers } = await throughServer();
rmSync(folder, { recursive: true, force: true });
const total = BATCHES * SPANS;
const rate = (ms: number): string => `${Math.round(total / (ms / 1000)).toLocaleString('en-GB')} spans/s`;
const of = (name: keyof Round): number => {
  const sorted = rounds.map((round) => round[name]).sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)];
};
const ratio = (name: keyof Round): string => {
  const each = rounds.map((round) => (round.bare / round[name]).toFixed(2)).join(', ');
  return `ratio ${(of('bare') / of(name)).toFixed(2)} (each round ${each})`;
};
console.log(`ingest: ${total} spans in batches of ${SPANS}, medians of ${ROUNDS} rounds`);
console.log(`  bare multi-row insert        ${rate(of('bare'))}`);
console.log(
  `  acknowledged, ${SENDERS} senders      ${rate(of('stored'))}   ${ratio('stored')}   (must reach 0.5)`
);
console.log(`  acknowledged, one sender     ${rate(of('oneSender'))}   ${ratio('oneSender')}`);
console.log(`  booked as well               ${rate(of('booked'))}   ${ratio('booked')}`);
console.log(
  `  overview meanwhile: p50 ${answers[Math.floor(answers.length / 2)].toFixed(0)} ms, p95 ${answers[Math.floor(answers.length * 0.95)].toFixed(0)} ms, worst ${answers[answers.length - 1].toFixed(0)} ms of ${answers.length} (must stay under 300 ms)`
);
