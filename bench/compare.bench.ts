/**
 * Two sides of 50,000 requests each: how long the server takes for verdict and parts table, how long the intervals take, and `tromix compare` of two files against
 * `tromix inspect` of the same two. `COMPARE=small` takes a tenth.
 */
import { fork, spawn } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { performance } from 'node:perf_hooks';
import { createClient } from '@libsql/client';
import { howSure } from '../core/src/compare/how-sure';
import { ExportTraceServiceRequest } from '../core/src/formats/otlp/schema';
import { quantiles } from '../core/src/stats/percentile';
import { SERVER_ENV } from '../web/server-env.mjs';

const ROOT = path.resolve(import.meta.dirname, '..');
const CLI = path.join(ROOT, 'cli/bin/tromix.mjs');
const ADDRESS = 'http://127.0.0.1:4499';
const EACH = process.env.COMPARE === 'small' ? 5000 : 50_000;
const QUERIES = 3;
const PER_BATCH = 1000;
const MINUTES = 60;
const ASKED = 25;
const ROUNDS = 3;
const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-compare-bench-'));

let seed = 1;
const random = (): number => {
  seed = (seed * 1_664_525 + 1_013_904_223) % 4_294_967_296;
  return seed / 4_294_967_296;
};
const text = (key: string, stringValue: string): object => ({ key, value: { stringValue } });
const at = (ms: number): { low: number; high: number; unsigned: boolean } => {
  const ns = BigInt(Math.round(ms * 1000)) * 1000n;
  return { low: Number(ns & 0xffffffffn) | 0, high: Number(ns >> 32n) | 0, unsigned: true };
};
const id = (value: number, length: number): Uint8Array => {
  const out = new Uint8Array(length);
  new DataView(out.buffer).setUint32(length - 4, value);
  out[0] = 1;
  return out;
};

let spanIds = 0;
/** Requests of one side that lie one after another; those of the later side take a tenth longer. */
function batch(side: number, first: number, count: number, fromMs: number): Uint8Array {
  const spans: object[] = [];
  for (let i = first; i < first + count; i++) {
    const traceId = id(side * EACH + i + 1, 16);
    const root = id(++spanIds, 8);
    const startMs = fromMs + (i / EACH) * MINUTES * 60_000;
    const each = (2 + random() * 4) * (1 + side / 10);
    spans.push({
      traceId,
      spanId: root,
      name: 'GET',
      kind: 2,
      startTimeUnixNano: at(startMs),
      endTimeUnixNano: at(startMs + each * (QUERIES + 1)),
      attributes: [text('http.request.method', 'GET'), text('http.route', '/board')]
    });
    for (let n = 0; n < QUERIES; n++)
      spans.push({
        traceId,
        spanId: id(++spanIds, 8),
        parentSpanId: root,
        name: 'SELECT',
        kind: 3,
        startTimeUnixNano: at(startMs + n * each),
        endTimeUnixNano: at(startMs + (n + 0.8) * each),
        attributes: [
          text('db.system.name', 'postgresql'),
          text('db.query.text', `SELECT id, tonnes FROM part_${n} WHERE call_id = $1`)
        ]
      });
  }
  const resource = {
    attributes: [
      text('service.name', 'berths'),
      text('host.name', 'quay-2'),
      text('service.version', `7.${2 + side}`)
    ]
  };
  return ExportTraceServiceRequest.encode(
    ExportTraceServiceRequest.create({ resourceSpans: [{ resource, scopeSpans: [{ spans }] }] })
  ).finish();
}

const spread = (list: readonly number[], digits: number): string => {
  const [least, middle, most] = quantiles(list, [0, 0.5, 1]);
  return `${middle.toFixed(digits)} (${least.toFixed(digits)} to ${most.toFixed(digits)})`;
};

const nowMs = Math.floor(Date.now() / 60_000) * 60_000;
const beginMs = [nowMs - 2.5 * MINUTES * 60_000, nowMs - 1.25 * MINUTES * 60_000];
const batches = beginMs.map((fromMs, side) =>
  Array.from({ length: EACH / PER_BATCH }, (_, i) => batch(side, i * PER_BATCH, PER_BATCH, fromMs))
);
/** Two files a side: one takes 200,000 spans. */
const files = batches.map((list, side) =>
  [list.slice(0, list.length / 2), list.slice(list.length / 2)].map((half, i) => {
    // Messages of one type merge when written after one another.
    const file = path.join(folder, `${'ab'[side]}${i}.pb`);
    writeFileSync(file, Buffer.concat(half));
    return file;
  })
);

const server = fork(path.join(ROOT, 'web/server.mjs'), [], {
  env: { ...SERVER_ENV, ...process.env, PORT: '4499', TROMIX_DATA: folder, TROMIX_SETTLE_MS: '500' },
  silent: true
});
try {
  await new Promise((resolve) => server.once('message', resolve));
  for (const body of batches.flat()) await post(body);
  const client = createClient({ url: `file:${path.join(folder, 'tromix.sqlite')}` });
  for (let count = 0; count < 2 * EACH;) {
    await new Promise((resolve) => setTimeout(resolve, 500));
    const { rows } = await client.execute('SELECT count(*) AS n FROM requests');
    count = Number(rows[0].n);
  }
  client.close();
  await answers();
} finally {
  server.kill('SIGTERM');
}
intervals();
await commandLine();
rmSync(folder, { recursive: true, force: true });
process.exit(0);

async function post(body: Uint8Array): Promise<void> {
  for (;;) {
    const { status } = await fetch(`${ADDRESS}/v1/traces`, {
      method: 'POST',
      body: body as BodyInit,
      headers: { 'content-type': 'application/x-protobuf' }
    });
    if (status === 200) return;
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
}

/** The answer that the page draws from: verdict, parts, findings, and the durations of both sides. */
async function answers(): Promise<void> {
  const scope = (side: number): URLSearchParams =>
    new URLSearchParams({
      service: 'berths',
      endpoint: 'GET /board',
      from: String(beginMs[side]),
      to: String(beginMs[side] + MINUTES * 60_000)
    });
  const query = scope(1);
  query.set('a', scope(0).toString());
  const took: number[] = [];
  for (let i = 0; i < ASKED; i++) {
    const begun = performance.now();
    // Only the page's own part: the frame stays as it is when sides change.
    const response = await fetch(`${ADDRESS}/compare/__data.json?${query}&x-sveltekit-invalidated=01`);
    const answer = await response.text();
    took.push(performance.now() - begun);
    if (i === 0 && !answer.includes('part_2')) throw new Error('The answer holds no parts.');
  }
  const [p50, p95] = quantiles(took, [0.5, 0.95]);
  console.log(
    `two sides of ${EACH} requests at the server: p50 ${p50.toFixed(0)} ms, p95 ${p95.toFixed(0)} ms (must be within 500 ms)`
  );
}

/** The intervals of as many durations, alone in a thread. */
function intervals(): void {
  const took = Array.from({ length: ROUNDS }, () => {
    const samples = () => Float64Array.from({ length: EACH }, () => 1e7 * (1 + random()));
    const sides = { before: samples(), after: samples() };
    const begun = performance.now();
    howSure(sides);
    return performance.now() - begun;
  });
  console.log(`intervals of ${EACH} durations a side: ${spread(took, 0)} ms (must be within 1500 ms)`);
}

async function commandLine(): Promise<void> {
  const run = (...args: string[]): Promise<number> => {
    const begun = performance.now();
    const child = spawn(process.execPath, [CLI, ...args], { stdio: ['ignore', 'ignore', 'inherit'] });
    return new Promise((resolve, reject) =>
      child.once('exit', (code) =>
        code === 0 ? resolve(performance.now() - begun) : reject(new Error(`${args[0]} ended with ${code}.`))
      )
    );
  };
  const [a, b] = files;
  const ratios: number[] = [];
  for (let round = 0; round < ROUNDS; round++) {
    const inspected = await run('inspect', '--json', ...a, ...b);
    const compared = await run('compare', '--json', ...a, '--', ...b);
    ratios.push(compared / inspected);
  }
  console.log(
    `tromix compare against tromix inspect of the same files: ${spread(ratios, 2)} × (must be at most 1.3)`
  );
}
