/**
 * Watches: 1,000 of every kind judged at 2,000,000 spans; what judging takes of ingest; the run over 7 days before a watch is saved; whether a minute is missed
 * while 100,000 spans come in.
 * Run: npx tsx --tsconfig bench/tsconfig.json bench/watches.bench.ts   (needs a build; `SCALE=small` fills 200,000 and takes fewer rounds)
 */
import { fork, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { performance } from 'node:perf_hooks';
import { setTimeout as pause } from 'node:timers/promises';
import { createClient } from '@libsql/client';
import type { Watch } from '../core/src/watch/watch';
import { LocalDatabase } from '../web/src/lib/server/db/database';
import { openDatabase } from '../web/src/lib/server/db/client';
import { Judge, SETTLE_MS } from '../web/src/lib/server/watch/judge';
import { watchFrom } from '../web/src/lib/server/watch/stored';
import { SERVER_ENV } from '../web/server-env.mjs';
import { encode, ENDPOINTS, HOSTS, made, random, requestSpans } from './berth-traffic';

const ROOT = path.resolve(import.meta.dirname, '..');
const PORT = 4498;
const ADDRESS = `http://127.0.0.1:${PORT}`;
const isSmall = process.env.SCALE === 'small';
const SPANS = isSmall ? 200_000 : 2_000_000;
const PAIRS = isSmall ? 1 : 2;
const WATCHES = 1000;
const SPANS_PER_REQUEST = 20;
const REQUESTS_PER_BATCH = 250;
const DAYS = 30;
/** Share of the requests that lie in the last hours, where a minute is judged. */
const LATELY = 0.3;
const LATELY_MS = 3 * 3_600_000;
const SENDERS = 3;
/** Longer than a minute waits where booking is behind: so watches are judged within it. */
const WINDOW_MS = 150_000;
const GIVE_UP_MS = 300_000;
const MINUTE = 60_000;
const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-watches-'));
const url = `file:${path.join(folder, 'tromix.sqlite')}`;

async function startServer(): Promise<ChildProcess> {
  const server = fork(path.join(ROOT, 'web/server.mjs'), [], {
    env: { ...SERVER_ENV, ...process.env, PORT: String(PORT), TROMIX_DATA: folder, TROMIX_SETTLE_MS: '500' },
    silent: true
  });
  await new Promise((resolve) => server.once('message', resolve));
  return server;
}
async function post(address: string, body: Uint8Array | object): Promise<Response> {
  for (;;) {
    const isBytes = body instanceof Uint8Array;
    const response = await fetch(ADDRESS + address, {
      method: 'POST',
      headers: { 'content-type': isBytes ? 'application/x-protobuf' : 'application/json' },
      body: isBytes ? (body as BodyInit) : JSON.stringify(body)
    });
    if (response.status !== 503) return response;
    await response.arrayBuffer();
    await pause(200);
  }
}
const client = (): ReturnType<typeof createClient> => createClient({ url });
async function booked(): Promise<void> {
  const database = client();
  for (;;) {
    const { rows } = await database.execute('SELECT count(*) FROM pending_traces');
    if (Number(rows[0][0]) === 0) return;
    await pause(250);
  }
}

const batch = (startMs: () => number): Uint8Array =>
  encode(
    Array.from({ length: REQUESTS_PER_BATCH }, () => requestSpans(startMs(), SPANS_PER_REQUEST)),
    random() < 0.3 ? '7.3' : '7.2'
  );

/** A watch of each kind in turn, each with another scope and limit. */
function watchNumber(i: number): Watch {
  const place = {
    service: 'berths',
    endpoint: `GET /berths/part-${i % ENDPOINTS}`,
    host: i % 4 === 3 ? `quay-${i % HOSTS}` : ''
  };
  const on = 1e6 * (20 + (i % 90));
  const number = { by: 'number', side: 'above', on, off: on * 0.7 };
  const figures = ['p50', 'p95', 'p99', 'mean', 'apdex', 'failed', 'rate', 'calls'];
  const requests = { of: 'requests', figure: figures[i % figures.length], place };
  const kinds = [
    () => ({ watched: requests, limit: number }),
    () => ({ watched: requests, limit: number }),
    () => ({
      watched: { ...requests, place: { service: 'berths', endpoint: '', host: place.host } },
      limit: number
    }),
    () => ({
      watched: requests,
      limit: { by: 'before', against: i % 2 === 0 ? 'day' : 'week', on: 0.2, off: 0.1 }
    }),
    () => ({
      watched: { ...requests, figure: 'p50' },
      limit: { by: 'before', against: 'release', on: 0.2, off: 0.1 }
    }),
    () => ({
      watched: {
        of: 'calls',
        figure: 'p95',
        kind: 'database',
        fingerprint: `select id, tonnes from part_${i % 60} where call_id = ?`,
        place: { service: 'berths' }
      },
      limit: number
    }),
    () => ({
      watched: { of: 'finding', rule: 'query-per-row', place },
      limit: { ...number, on: 0.5, off: 0.2 }
    }),
    () => ({
      watched: { of: 'failures', figure: i % 2 === 0 ? 'new' : 'rate', place },
      limit: { ...number, on: 3, off: 1 }
    }),
    () => ({ watched: { of: 'vital', vital: 'lcp', page: `/page/${i % 20}` }, limit: number }),
    () => ({
      watched: { of: 'counter', name: 'process.memory.usage', place: { host: `quay-${i % HOSTS}` } },
      limit: number
    })
  ];
  const over = [1, 5, 5, 5, 10, 60][i % 6];
  const condition = { ...kinds[i % kinds.length](), over, for: 1 + (i % 3) };
  const watch = watchFrom(JSON.stringify({ condition }));
  if (!watch) throw new Error(`Watch ${i} is none.`);
  return watch;
}

const at = (sorted: readonly number[], p: number): number =>
  sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * p))];
const text = (list: readonly number[], digits = 0): string => {
  const sorted = [...list].sort((a, b) => a - b);
  return `p50 ${at(sorted, 0.5).toFixed(digits)}, p95 ${at(sorted, 0.95).toFixed(digits)}, greatest ${sorted.at(-1)!.toFixed(digits)}`;
};

let server = await startServer();
const begunMs = Date.now();
const anytime = (): number =>
  begunMs - (random() < LATELY ? random() * LATELY_MS : random() * DAYS * 86_400_000);
const sender = async (): Promise<void> => {
  while (made.spans < SPANS) await (await post('/v1/traces', batch(anytime))).arrayBuffer();
};
await Promise.all(Array.from({ length: SENDERS }, sender));
await booked();
console.log(`${made.spans} spans stored and booked in ${((Date.now() - begunMs) / 1000).toFixed(0)} s.`);

// The run over the past, through the server.
const past: Record<string, object> = {
  'an endpoint': watchNumber(0).condition,
  'a service, by host': { ...watchNumber(3 * 10 + 2).condition, over: 60 },
  'all requests': { ...watchNumber(0).condition, watched: { of: 'requests', figure: 'p95' } },
  'against the day before': { ...watchNumber(13).condition, over: 5 },
  'a call group': watchNumber(5).condition,
  'new failures': {
    watched: { of: 'failures', figure: 'new' },
    limit: { by: 'number', side: 'above', on: 0, off: 0 },
    over: 1,
    for: 1
  },
  'a finding': watchNumber(6).condition
};
for (const [name, condition] of Object.entries(past)) {
  const took: number[] = [];
  for (let i = 0; i < (isSmall ? 3 : 9); i++) {
    const begun = performance.now();
    const response = await post('/api/watches/past', { condition });
    if (response.status !== 200) throw new Error(`${name}: ${await response.text()}`);
    await response.arrayBuffer();
    took.push(performance.now() - begun);
  }
  console.log(`Run over 7 days, ${name}: ${text(took)} ms (must be under 1,000).`);
}

/** Spans taken in and acknowledged in a window that holds one judging. */
async function ingestFor(windowMs: number): Promise<number> {
  const until = Date.now() + windowMs;
  let spans = 0;
  const send = async (): Promise<void> => {
    while (Date.now() < until) {
      const body = batch(() => Date.now() - random() * 20_000);
      await (await post('/v1/traces', body)).arrayBuffer();
      spans += REQUESTS_PER_BATCH * SPANS_PER_REQUEST;
    }
  };
  await Promise.all([send(), send()]);
  return spans;
}
/** Stops the server, puts watches in or takes them all out, and starts it again. */
async function withWatches(count: number): Promise<void> {
  await stop();
  const database = client();
  for (const table of ['watches', 'watch_standings', 'watch_firings', 'watch_tasks'])
    await database.execute(`DELETE FROM ${table}`);
  await database.batch(
    Array.from({ length: count }, (_, i) => ({
      sql: 'INSERT INTO watches (id, body, created_at_us) VALUES (?, ?, ?)',
      args: [`w${i}`, JSON.stringify(watchNumber(i)), Date.now() * 1000]
    })),
    'write'
  );
  server = await startServer();
}
async function stop(): Promise<void> {
  const gone = new Promise((resolve) => server.once('exit', resolve));
  server.kill('SIGTERM');
  await gone;
}

const ratios: number[] = [];
for (let pair = 0; pair < PAIRS; pair++) {
  const spans: Record<number, number> = {};
  // Either goes first as often: the database grows on the way.
  for (const count of pair % 2 === 0 ? [WATCHES, 0] : [0, WATCHES]) {
    await withWatches(count);
    spans[count] = await ingestFor(WINDOW_MS);
    if (count === 0) continue;
    // The last minute of the window: booking may be behind, and a minute waits for its requests.
    const last = Math.floor(Date.now() / MINUTE) - 1;
    const overMs = (last + 1) * MINUTE;
    const judged = async (): Promise<number> => {
      const { rows } = await client().execute({
        sql: 'SELECT count(*) FROM watch_standings WHERE judged >= ?',
        args: [last]
      });
      return Number(rows[0][0]);
    };
    while ((await judged()) < count && Date.now() - overMs < GIVE_UP_MS) await pause(1000);
    console.log(
      `${spans[count]} spans came in meanwhile; ${await judged()} of ${count} watches have judged the last minute ${((Date.now() - overMs) / 1000).toFixed(0)} s after it was over.`
    );
    const late = await client().execute('SELECT max(late_minutes) FROM watch_firings');
    console.log(`Judged late by at most ${Number(Object.values(late.rows[0])[0] ?? 0)} minutes.`);
  }
  ratios.push(spans[0] / spans[WATCHES] - 1);
}
console.log(
  `Ingest takes longer with ${WATCHES} watches by ${ratios.map((ratio) => `${(ratio * 100).toFixed(1)} %`).join(', ')} (must be under 5 %).`
);
await withWatches(WATCHES);
await stop();

// What one minute takes, in the thread that judges.
const database = new LocalDatabase(openDatabase(url));
await database.write([
  { sql: 'DELETE FROM watch_standings', args: [] },
  { sql: "DELETE FROM settings WHERE key = 'watches-judge'", args: [] },
  { sql: 'UPDATE watches SET created_at_us = ?', args: [(begunMs - 90 * MINUTE) * 1000] }
]);
const judge = new Judge(database, async (make) => database.write(await make()), 'bench');
const took: number[] = [];
const first = Math.floor(begunMs / MINUTE) * MINUTE - 60 * MINUTE;
await judge.judge(first + SETTLE_MS);
for (let i = 1; i <= (isSmall ? 10 : 40); i++) {
  const begun = performance.now();
  const { minutes } = await judge.judge(first + i * MINUTE + SETTLE_MS);
  if (minutes !== 1) throw new Error(`${minutes} minutes were judged instead of one.`);
  took.push(performance.now() - begun);
}
console.log(`One minute of ${WATCHES} watches: ${text(took)} ms (must be under 1,000).`);
await database.close();
rmSync(folder, { recursive: true, force: true });
