/**
 * Counters: a day of 2,000 series, a point every 10 s, in the proportions in which hosts and runtimes send them, through `/v1/metrics` as protobuf: points a
 * second until acknowledged and until put into blocks, and bytes a point in the database afterwards, sums included; then strips of 200 of them over
 * 30 days, and the memory of a server with 20,000 series.
 * Run: npx tsx bench/counters.bench.ts   (needs a build; `SCALE=small` sends two hours)
 */
import { fork, type ChildProcess } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { chromium } from '@playwright/test';
import { createClient, type Client, type InStatement } from '@libsql/client';
import { groupBy } from '../core/src/group-by';
import { SUMS } from '../web/src/lib/server/counters/levels';
import { encodeSums, type SumRow } from '../web/src/lib/server/counters/sums';
import { MetricSenders } from './metric-batch';

const ROOT = path.resolve(import.meta.dirname, '..');
const PORT = 4495;
const URL_OF = `http://127.0.0.1:${PORT}`;
const SENDERS = 20;
const STEP_MS = 10_000;
const ROUNDS = 50;
const DAY_MS = 86_400_000;
const LENGTH_MS = process.env.SCALE === 'small' ? DAY_MS / 12 : DAY_MS;
/** Messages under way at once. */
const AT_ONCE = 4;
const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-bench-'));

async function started(data: string): Promise<ChildProcess> {
  const server = fork(path.join(ROOT, 'web/server.mjs'), [], {
    env: { ...process.env, PORT: String(PORT), TROMIX_DATA: data, TROMIX_KEEP_COUNTER_DAYS: '60' },
    silent: true
  });
  await new Promise((resolve) => server.once('message', resolve));
  return server;
}
async function stopped(server: ChildProcess): Promise<void> {
  server.kill('SIGTERM');
  await new Promise((resolve) => server.once('exit', resolve));
}
async function post(body: Uint8Array): Promise<void> {
  const response = await fetch(`${URL_OF}/v1/metrics`, {
    method: 'POST',
    body: body as BodyInit,
    headers: { 'content-type': 'application/x-protobuf' }
  });
  if (response.status === 503 || response.status === 429) {
    await new Promise((resolve) => setTimeout(resolve, 200));
    return post(body);
  }
  const answer = await response.text();
  if (response.status !== 200 || answer.length > 0) throw new Error(`${response.status}: ${answer}`);
}
/** Sends all, so many at once. @returns milliseconds the server took: bodies are made in between. */
async function send(count: number, make: (i: number) => Uint8Array): Promise<number> {
  let busyMs = 0;
  for (let at = 0; at < count; at += 40) {
    const bodies = Array.from({ length: Math.min(40, count - at) }, (_, i) => make(at + i));
    const begun = performance.now();
    let next = 0;
    const sender = async (): Promise<void> => {
      while (next < bodies.length) await post(bodies[next++]);
    };
    await Promise.all(Array.from({ length: AT_ONCE }, sender));
    busyMs += performance.now() - begun;
  }
  return busyMs;
}
const quantile = (list: number[], p: number): string =>
  list.sort((a, b) => a - b)[Math.min(list.length - 1, Math.floor(p * list.length))].toFixed(0);
const residentMb = (pid: number): number =>
  Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))![1]) / 1024;

/** Draws the strips anew in Chromium, again and again: script, styles and layout of the page’s thread until they stand. */
async function drawn(url: string): Promise<void> {
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--headless', '--no-sandbox', '--disable-gpu']
  });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(url);
  await page.getByRole('table', { name: 'Counters over time' }).waitFor();
  const ms = await page.evaluate(async () => {
    const table = document.querySelector('table[aria-label="Counters over time"]')!;
    const body = table.querySelector('tbody')!;
    const took: number[] = [];
    for (let i = 0; i < 30; i++) {
      await new Promise((resolve) => requestAnimationFrame(resolve));
      const begun = performance.now();
      // As a component does: elements are copied from a template, and their paths are set.
      const copy = body.cloneNode(true) as HTMLElement;
      for (const path of copy.querySelectorAll('path')) path.setAttribute('d', path.getAttribute('d')!);
      table.replaceChild(copy, table.querySelector('tbody')!);
      table.getBoundingClientRect();
      took.push(performance.now() - begun);
    }
    return took;
  });
  const strips = await page.getByRole('table', { name: 'Counters over time' }).locator('svg').count();
  await browser.close();
  console.log(
    `${strips} strips put into the page and laid out: p50 ${quantile(ms, 0.5)} ms, p95 ${quantile(ms, 0.95)} ms, must stay under 16`
  );
}

/** Hosts with five series that strips are made of and others that they are not, each with the hours of 30 days. */
async function fillHours(client: Client, hosts: number, perHost: number): Promise<void> {
  const HOUR_MS = 3_600_000;
  const names: [string, string][] = [
    ['system.cpu.time', 'user'],
    ['system.cpu.time', 'idle'],
    ['system.memory.usage', 'used'],
    ['system.memory.usage', 'free'],
    ['system.disk.io_time', '']
  ];
  const lastHour = Math.floor(Date.now() / HOUR_MS);
  const hours = SUMS[2].blockMs / HOUR_MS;
  for (let host = 0; host < hosts; host++) {
    const statements: InStatement[] = [
      {
        sql: `INSERT INTO counter_sources (id, key, service, host, release, pid, attributes) VALUES (?, ?, '', ?, '', 0, '[]')`,
        args: [host + 1, `k${host}`, `pier-${host}`]
      }
    ];
    for (let i = 0; i < perHost; i++) {
      const id = host * perHost + i + 1;
      const [name, state] = names[i] ?? [`other.${i}`, ''];
      statements.push({
        sql: `INSERT INTO counter_series (id, key, source_id, name, unit, kind, is_delta, is_monotonic, attributes, last_ms) VALUES (?, ?, ?, ?, '', 'gauge', 0, 0, ?, ?)`,
        args: [id, `s${id}`, host + 1, name, JSON.stringify(state ? [['state', state]] : []), Date.now()]
      });
      const rows: SumRow[] = Array.from({ length: 720 }, (_, hour) => {
        const mean = Math.abs(Math.sin(id + hour / 9)) + Math.random() / 5;
        return { bin: lastHour - 719 + hour, weight: 360, sum: mean * 360, max: mean * 1.4 };
      });
      const blocks = groupBy(rows, ({ bin }) => Math.floor(bin / hours));
      for (const [block, of] of blocks)
        statements.push({
          sql: `INSERT INTO counter_blocks (series_id, level, start_ms, end_ms, points, packed, rolled, data) VALUES (?, 2, ?, ?, ?, 1, 1, ?)`,
          args: [
            id,
            block * SUMS[2].blockMs,
            (block + 1) * SUMS[2].blockMs - HOUR_MS,
            of.length,
            encodeSums(of)
          ]
        });
    }
    await client.batch(statements, 'write');
  }
  client.close();
}

let server = await started(path.join(folder, 'day'));
const database = createClient({ url: `file:${path.join(folder, 'day', 'tromix.sqlite')}` });
const number = async (sql: string): Promise<number> => Number((await database.execute(sql)).rows[0][0]);
const until = async (sql: string): Promise<void> => {
  while ((await number(sql)) > 0) await new Promise((resolve) => setTimeout(resolve, 100));
};

const senders = new MetricSenders(SENDERS);
const begin = Math.floor((Date.now() - DAY_MS - 2 * 3_600_000) / 7_200_000) * 7_200_000;
const pieces = LENGTH_MS / STEP_MS / ROUNDS;
const emptyBytes = await number('SELECT page_count * page_size FROM pragma_page_count, pragma_page_size');
const begun = performance.now();
const busyMs = await send(Math.round(pieces) * SENDERS, (i) =>
  senders.batch(i % SENDERS, begin + Math.floor(i / SENDERS) * ROUNDS * STEP_MS, STEP_MS, ROUNDS)
);
const points = Math.round(pieces) * SENDERS * ROUNDS * senders.perSender;
console.log(
  `${points} points acknowledged at ${(points / busyMs).toFixed(0)} thousand a second, must reach 100 (the clock says ${((performance.now() - begun) / 1000).toFixed(0)} s with the making of them)`
);
const waited = performance.now();
await until('SELECT count(*) FROM counter_batches');
console.log(
  `put into blocks ${((performance.now() - waited) / 1000).toFixed(1)} s after the last was acknowledged`
);
await until('SELECT count(*) FROM counter_blocks WHERE rolled = 0');
await database.execute('VACUUM');
const bytes =
  (await number('SELECT page_count * page_size FROM pragma_page_count, pragma_page_size')) - emptyBytes;
const stored = await number('SELECT sum(points) FROM counter_blocks WHERE level = 0');
const ofLevel = async (level: number): Promise<string> =>
  (
    (await number(`SELECT coalesce(sum(length(data)), 0) FROM counter_blocks WHERE level = ${level}`)) /
    stored
  ).toFixed(2);
console.log(
  `${stored} points stored, ${(bytes / stored).toFixed(2)} bytes each with everything, must stay under 3 (points ${await ofLevel(0)}, minutes ${await ofLevel(1)}, hours ${await ofLevel(2)})`
);
console.log(`memory of the server: ${residentMb(server.pid!).toFixed(0)} MB`);
await stopped(server);
database.close();

// Strips of 200 series over 30 days, among 2,000: their hours are put where they are kept.
server = await started(path.join(folder, 'strips'));
await fillHours(createClient({ url: `file:${path.join(folder, 'strips', 'tromix.sqlite')}` }), 40, 50);
const took: number[] = [];
for (let i = 0; i < 60; i++) {
  const asked = performance.now();
  const response = await fetch(`${URL_OF}/hosts/__data.json?last=30d`);
  const body = await response.text();
  if (response.status !== 200 || !body.includes('pier-39')) throw new Error(`No strips: ${response.status}`);
  if (i >= 10) took.push(performance.now() - asked);
}
console.log(
  `strips of 200 series over 30 days, among 2,000 (the whole view): p50 ${quantile(took, 0.5)} ms, p95 ${quantile(took, 0.95)} ms, must stay under 150`
);
await drawn(`${URL_OF}/hosts?last=30d`);
await stopped(server);

server = await started(path.join(folder, 'many'));
const many = new MetricSenders(200);
const now = Date.now();
for (let minute = 10; minute > 0; minute--)
  await send(200, (i) => many.batch(i, now - minute * 60_000, STEP_MS, 6));
console.log(
  `${200 * many.perSender} series, ten minutes of them: ${residentMb(server.pid!).toFixed(0)} MB, must stay under 600`
);
await stopped(server);
rmSync(folder, { recursive: true, force: true });
