/**
 * A server that holds many requests: how fast it answers, in how much memory, and how both grow. Loads 200,000 and then
 * 2,000,000 spans (about 100,000 requests over 30 days, 50 endpoints on 4 hosts) through `/v1/traces`, and at each size asks
 * for the overview over 30 days, for searches, and draws a request of 5,000 spans in Chromium. `SCALE=small` stops at the first size.
 */
import { fork } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { performance } from 'node:perf_hooks';
import { createClient } from '@libsql/client';
import { chromium } from '@playwright/test';
import { SERVER_ENV } from '../web/server-env.mjs';
import { encode, made, random, requestSpans } from './berth-traffic';

const ROOT = path.resolve(import.meta.dirname, '..');
const PORT = 4498;
const ADDRESS = `http://127.0.0.1:${PORT}`;
const SIZES = process.env.SCALE === 'small' ? [200_000] : [200_000, 2_000_000];
const SPANS_PER_REQUEST = 20;
const REQUESTS_PER_BATCH = 250;
const DAYS = 30;
const SENDERS = 3;
const ASKED = 25;
const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-scale-'));
const begunMs = Date.now();

const server = fork(path.join(ROOT, 'web/server.mjs'), [], {
  env: {
    ...SERVER_ENV,
    ...process.env,
    PORT: String(PORT),
    TROMIX_DATA: folder,
    TROMIX_SETTLE_MS: '500',
    TROMIX_KEEP_DAYS: '90'
  },
  silent: true
});
let log = '';
server.stderr!.on('data', (part) => (log += String(part)));
await new Promise((resolve) => server.once('message', resolve));
const client = createClient({ url: `file:${path.join(folder, 'tromix.sqlite')}` });

/** Sends a batch as an exporter does: again where the server is busy or the connection broke. */
async function post(body: Uint8Array): Promise<void> {
  for (;;) {
    const headers = { 'content-type': 'application/x-protobuf' };
    const status = await fetch(`${ADDRESS}/v1/traces`, { method: 'POST', body: body as BodyInit, headers })
      .then(async (response) => {
        await response.arrayBuffer();
        return response.status;
      })
      .catch(() => {
        if (server.exitCode !== null) throw new Error(`The server ended: ${log}`);
        return 503;
      });
    if (status === 200) return;
    if (status !== 503) throw new Error(`The server answered ${status}.`);
    await new Promise((resolve) => setTimeout(resolve, 500));
  }
}
async function booked(): Promise<void> {
  for (;;) {
    const { rows } = await client.execute('SELECT count(*) FROM pending_traces');
    if (Number(rows[0][0]) === 0) return;
    await new Promise((resolve) => setTimeout(resolve, 250));
  }
}
async function load(until: number): Promise<number> {
  const first = performance.now();
  const sender = async (): Promise<void> => {
    while (made.spans < until) {
      const requests = Array.from({ length: REQUESTS_PER_BATCH }, () => {
        // As much in the last day as in all the days before it together would not be real: evenly over the days.
        const startMs = begunMs - random() * DAYS * 86_400_000;
        return requestSpans(startMs, SPANS_PER_REQUEST);
      });
      await post(encode(requests, random() < 1 / 3 ? '7.3' : '7.2'));
    }
  };
  await Promise.all(Array.from({ length: SENDERS }, sender));
  await booked();
  return performance.now() - first;
}

async function ask(address: string, times = ASKED): Promise<number[]> {
  const took: number[] = [];
  for (let i = 0; i < times; i++) {
    const begun = performance.now();
    const response = await fetch(`${ADDRESS}${address}`);
    const answer = await response.text();
    if (response.status !== 200 || answer.includes('"type":"error"'))
      throw new Error(`${address}: ${response.status} ${answer.slice(0, 200)}`);
    took.push(performance.now() - begun);
  }
  return took.sort((a, b) => a - b);
}
const p = (sorted: readonly number[], part: number): string =>
  sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * part))].toFixed(0);
const memoryMb = (): { now: number; peak: number } => {
  const status = readFileSync(`/proc/${server.pid}/status`, 'utf8');
  const of = (name: string): number => Number(new RegExp(`${name}:\\s+(\\d+)`).exec(status)?.[1] ?? 0) / 1024;
  return { now: of('VmRSS'), peak: of('VmHWM') };
};

/** The same question, each time after a request was booked: nothing of the present can be remembered. */
async function askAfterBooking(address: string): Promise<number[]> {
  const took: number[] = [];
  for (let i = 0; i < ASKED; i++) {
    await post(encode([requestSpans(Date.now() - 1000, SPANS_PER_REQUEST)], '7.3'));
    await booked();
    took.push(...(await ask(address, 1)));
  }
  return took.sort((a, b) => a - b);
}

/** Milliseconds from the click on a request to its drawn timeline. */
async function openLarge(traceId: string, spanId: string): Promise<number[]> {
  const browser = await chromium.launch({
    executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox']
  });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const ready = async (): Promise<void> => {
    await page.goto(`${ADDRESS}/evidence`);
    await page.getByText('Drop a file here').waitFor();
  };
  await ready();
  const took: number[] = [];
  for (let i = 0; i < 6; i++) {
    // As text: what the page runs must not carry helpers of this file's own compilation.
    took.push(
      await page.evaluate(`new Promise((resolve) => {
        const link = document.createElement('a');
        link.href = '/requests/${traceId}/${spanId}';
        document.body.append(link);
        const begun = performance.now();
        // A message comes in as a task of its own, after the frame in which the rows stand was painted.
        const painted = new MessageChannel();
        painted.port2.onmessage = () => resolve(performance.now() - begun);
        const look = () =>
          document.querySelectorAll('[role="treegrid"] [role="row"]').length > 3
            ? painted.port1.postMessage(0)
            : requestAnimationFrame(look);
        link.click();
        look();
      })`)
    );
    await ready();
  }
  await browser.close();
  return took.sort((a, b) => a - b);
}

const large = requestSpans(begunMs - 60_000, 5000);
const hex = (bytes: Uint8Array): string => Buffer.from(bytes).toString('hex');
const [largeRoot] = large.spans as { traceId: Uint8Array; spanId: Uint8Array }[];
await post(encode([large], '7.3'));

const QUESTIONS: [string, string][] = [
  ['overview, 30 days (under 100 ms p95)', '/__data.json?last=30d'],
  ['overview, 24 hours', '/__data.json?last=24h'],
  ['requests, all of 30 days', '/requests/__data.json?last=30d'],
  [
    '  one endpoint, slower (under 200 ms)',
    '/requests/__data.json?last=30d&endpoint=GET+/berths/part-3&slower=60'
  ],
  [
    '  attribute and status (under 200 ms)',
    '/requests/__data.json?last=30d&attr=berth.zone%3Dnorth&status=failed'
  ],
  ['  one user (under 200 ms)', '/requests/__data.json?last=30d&user=user-77'],
  ['endpoint, 30 days', '/endpoint/__data.json?last=30d&service=berths&endpoint=GET+/berths/part-3'],
  ['calls, 30 days', '/calls/__data.json?last=30d'],
  ['failures, 30 days (under 100 ms p95)', '/failures/__data.json?last=30d'],
  ['  of one service and kind', '/failures/__data.json?last=30d&service=berths&kind=exception']
];
for (const size of SIZES) {
  const took = await load(size);
  const { rows } = await client.execute('SELECT count(*) FROM requests');
  console.log(
    `${size.toLocaleString('en-GB')} spans, ${Number(rows[0][0]).toLocaleString('en-GB')} requests: loaded and booked in ${(took / 1000).toFixed(0)} s`
  );
  for (const [name, address] of QUESTIONS) {
    await ask(address, 2);
    const times = await ask(address);
    console.log(`  ${name.padEnd(44)} p50 ${p(times, 0.5)} ms, p95 ${p(times, 0.95)} ms`);
  }
  const fresh = await askAfterBooking('/__data.json?last=30d');
  console.log(
    `  ${'overview, 30 days, each after a booking'.padEnd(44)} p50 ${p(fresh, 0.5)} ms, p95 ${p(fresh, 0.95)} ms`
  );
  const failing = await askAfterBooking('/failures/__data.json?last=30d');
  console.log(
    `  ${'failures, 30 days, each after a booking'.padEnd(44)} p50 ${p(failing, 0.5)} ms, p95 ${p(failing, 0.95)} ms`
  );
  const drawn = await openLarge(hex(largeRoot.traceId), hex(largeRoot.spanId));
  console.log(
    `  request of 5,000 spans, click to drawn (under 300 ms): median ${p(drawn, 0.5)} ms, worst ${p(drawn, 0.99)} ms`
  );
  const { now, peak } = memoryMb();
  console.log(
    `  memory of the server (under 600 MB): ${now.toFixed(0)} MB now, ${peak.toFixed(0)} MB at the most`
  );
}
// Reading while spans come in: no answer says that the database is locked.
let importing = true;
const reading = (async (): Promise<number[]> => {
  const all: number[] = [];
  while (importing)
    all.push(...(await ask('/__data.json?last=24h', 1)), ...(await ask('/requests/__data.json?last=1h', 1)));
  return all.sort((a, b) => a - b);
})();
await load(made.spans + 100_000);
importing = false;
const meanwhile = await reading;
console.log(
  `  reading while 100,000 spans came in: ${meanwhile.length} answers, p50 ${p(meanwhile, 0.5)} ms, p95 ${p(meanwhile, 0.95)} ms, worst ${p(meanwhile, 1)} ms; "database is locked" in the log: ${/locked/i.test(log) ? 'YES' : 'no'}`
);
console.log(`  memory at the end: ${memoryMb().peak.toFixed(0)} MB at the most`);
client.close();
server.kill('SIGTERM');
await new Promise((resolve) => server.once('exit', resolve));
rmSync(folder, { recursive: true, force: true });
