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
import { ExportTraceServiceRequest } from '../core/src/formats/otlp/schema';

const ROOT = path.resolve(import.meta.dirname, '..');
const PORT = 4498;
const ADDRESS = `http://127.0.0.1:${PORT}`;
const SIZES = process.env.SCALE === 'small' ? [200_000] : [200_000, 2_000_000];
const SPANS_PER_REQUEST = 20;
const REQUESTS_PER_BATCH = 250;
const ENDPOINTS = 50;
const HOSTS = 4;
const DAYS = 30;
/** Share of requests that fail, of how many kinds. */
const FAILING = 0.02;
const KINDS = 60;
const SENDERS = 3;
const ASKED = 25;
const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-scale-'));
const begunMs = Date.now();

/** A small generator of numbers that is the same in each run. */
let seed = 1;
const random = (): number => {
  seed = (seed * 1_664_525 + 1_013_904_223) % 4_294_967_296;
  return seed / 4_294_967_296;
};
const text = (key: string, stringValue: string): object => ({ key, value: { stringValue } });
const id = (value: number, length: number): Uint8Array => {
  const out = new Uint8Array(length);
  const view = new DataView(out.buffer);
  view.setUint32(length - 4, value >>> 0);
  // Trace ids are spread, as real ones are.
  if (length === 16) view.setUint32(0, Math.imul(value, 2_654_435_761) >>> 0);
  out[length - 5] = 1;
  return out;
};
const at = (ms: number): { low: number; high: number; unsigned: boolean } => {
  const ns = BigInt(Math.round(ms * 1000)) * 1000n;
  return { low: Number(ns & 0xffffffffn) | 0, high: Number(ns >> 32n) | 0, unsigned: true };
};

/** An exception of one of so many kinds, as an SDK records it. */
function thrownAt(ms: number, kind: number): object {
  const type = `BerthError${kind}`;
  const frames = Array.from(
    { length: 20 },
    (_, i) => `    at step${i} (/srv/berths/part-${kind}.ts:${10 + i}:5)`
  );
  return {
    timeUnixNano: at(ms),
    name: 'exception',
    attributes: [
      text('exception.type', type),
      text('exception.message', `berth ${Math.floor(random() * 900)} is taken`),
      text('exception.stacktrace', [`${type}: taken`, ...frames].join('\n'))
    ]
  };
}

let traces = 0;
let spanIds = 0;
function requestSpans(startMs: number, spans: number): { host: number; spans: object[] } {
  const traceId = id(++traces, 16);
  const root = id(++spanIds, 8);
  const endpoint = Math.floor(random() ** 2 * ENDPOINTS);
  const host = Math.floor(random() * HOSTS);
  const slow = host === 3 ? 2 : 1;
  const each = (1 + random() * 4) * slow;
  const fails = random() < FAILING;
  const list: object[] = [
    {
      traceId,
      spanId: root,
      name: 'GET',
      kind: 2,
      startTimeUnixNano: at(startMs),
      endTimeUnixNano: at(startMs + each * spans),
      status: { code: fails ? 2 : 0 },
      events: fails ? [thrownAt(startMs + each, Math.floor(random() ** 2 * KINDS))] : [],
      attributes: [
        text('http.request.method', 'GET'),
        text('http.route', `/berths/part-${endpoint}`),
        text('user.id', `user-${Math.floor(random() * 3000)}`),
        text('berth.zone', ['north', 'south', 'east'][Math.floor(random() * 3)]),
        { key: 'http.response.status_code', value: { intValue: 200 } }
      ]
    }
  ];
  for (let i = 1; i < spans; i++)
    list.push({
      traceId,
      spanId: id(++spanIds, 8),
      parentSpanId: root,
      name: 'SELECT',
      kind: 3,
      startTimeUnixNano: at(startMs + (i - 1) * each),
      endTimeUnixNano: at(startMs + (i - 0.2) * each),
      attributes: [
        text('db.system.name', 'postgresql'),
        text(
          'db.query.text',
          `SELECT id, tonnes FROM part_${(endpoint * 3 + (i % 3)) % 60} WHERE call_id = ${i}`
        ),
        text('code.file.path', 'berths/plan.ts'),
        { key: 'code.line.number', value: { intValue: 20 + (i % 3) } }
      ]
    });
  return { host, spans: list };
}

function encode(requests: { host: number; spans: object[] }[], nowMs: number): Uint8Array {
  const byHost = new Map<number, object[]>();
  for (const { host, spans } of requests) byHost.set(host, [...(byHost.get(host) ?? []), ...spans]);
  const resourceSpans = [...byHost].map(([host, spans]) => ({
    resource: {
      attributes: [
        text('service.name', 'berths'),
        text('host.name', `quay-${host}`),
        text('service.version', nowMs > begunMs - 10 * 86_400_000 ? '7.3' : '7.2')
      ]
    },
    scopeSpans: [{ spans }]
  }));
  return ExportTraceServiceRequest.encode(ExportTraceServiceRequest.create({ resourceSpans })).finish();
}

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
    while (spanIds < until) {
      const requests = Array.from({ length: REQUESTS_PER_BATCH }, () => {
        // As much in the last day as in all the days before it together would not be real: evenly over the days.
        const startMs = begunMs - random() * DAYS * 86_400_000;
        return requestSpans(startMs, SPANS_PER_REQUEST);
      });
      await post(encode(requests, begunMs - random() * DAYS * 86_400_000));
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
    await post(encode([requestSpans(Date.now() - 1000, SPANS_PER_REQUEST)], begunMs));
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
await post(encode([large], begunMs));

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
await load(spanIds + 100_000);
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
