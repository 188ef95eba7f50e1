/**
 * Pages: 200,000 loads of 40 pages over 30 days; Pages at the server, of everything, by device, and each time after a load was booked; one page; a load
 * with 500 resources opened in Chromium.
 * Run: npx tsx --tsconfig bench/tsconfig.json bench/pages.bench.ts   (needs a build; `SCALE=small` fills 20,000)
 */
import { fork, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { chromium } from '@playwright/test';
import type { PageLoad } from '../core/src/pages/page-load';
import { load, resource } from '../core/src/testing/page-load';
import { openForWriting } from '../web/src/lib/server/db/client';
import { Writer } from '../web/src/lib/server/ingest/writer';

const ROOT = path.resolve(import.meta.dirname, '..');
const PORT = 4496;
const SERVER = `http://127.0.0.1:${PORT}`;
const LOADS = process.env.SCALE === 'small' ? 20_000 : 200_000;
const PAGES = 40;
const DAYS = 30;
const ROUNDS = 60;
const MANY = 500;
const BIG = 'f'.repeat(32);
const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-bench-'));

let seed = 7;
const random = (): number => (seed = (seed * 48_271) % 2_147_483_647) / 2_147_483_647;
const pick = <T>(of: readonly T[]): T => of[Math.floor(random() * of.length)];
const between = (low: number, high: number): number => low + random() ** 3 * (high - low);

function oneLoad(i: number, nowMs: number): PageLoad {
  const lcp = between(400, 8000);
  return load({
    traceId: i.toString(16).padStart(32, '0'),
    atUs: Math.round((nowMs - random() * DAYS * 86_400_000) * 1000),
    page: `/page/${Math.floor(random() ** 2 * PAGES)}`,
    device: pick(['phone', 'tablet', 'desktop']),
    connection: pick(['4g', '4g', '3g']),
    release: pick(['7.1', '7.2', '7.3']),
    session: `s${i >> 2}`,
    vitals: { ttfb: between(40, 2500), fcp: lcp * 0.7, lcp, inp: between(8, 700), cls: between(0, 0.5) },
    largest: { atMs: lcp, element: 'main > img', url: '' },
    loadedMs: lcp + 300,
    resources: Array.from({ length: 12 }, (_, k) =>
      resource(k === 0 ? 'document' : 'script', `https://quay.example/${k}.js`, k * 30, k * 30 + 200, {
        transferBytes: 40_000
      })
    )
  });
}

/** The load that is opened: 500 files, a long task, a late picture. */
const bigLoad = (nowMs: number): PageLoad => ({
  ...oneLoad(0, nowMs),
  traceId: BIG,
  atUs: (nowMs - 60_000) * 1000,
  largest: { atMs: 4000, element: 'main > img', url: 'https://quay.example/p/499.webp' },
  resources: Array.from({ length: MANY }, (_, k) =>
    resource(
      k === 0 ? 'document' : k === MANY - 1 ? 'picture' : pick(['script', 'data', 'picture', 'font']),
      `https://quay.example/p/${k}.${k === MANY - 1 ? 'webp' : 'js'}`,
      k * 7,
      k * 7 + 400,
      { transferBytes: 12_000 }
    )
  ),
  tasks: [{ startMs: 2000, endMs: 3000, script: 'https://quay.example/p/3.js', function: 'drawTides' }]
});

async function fill(nowMs: number): Promise<void> {
  const writer = await Writer.open(
    {
      keepLiteralsOf: [],
      maxInflatedBytes: 1e7,
      sourceFolders: [],
      settleMs: 1000,
      maxTraceSpans: 1000,
      markFile: '',
      retention: { days: 60, maxBytes: 1e12, graceMinutes: 60, logDays: 3, counterDays: 7 }
    },
    await openForWriting(`file:${path.join(folder, 'tromix.sqlite')}`, path.join(ROOT, 'web/drizzle'))
  );
  const begun = performance.now();
  for (let at = 0; at < LOADS; at += 1000)
    await writer.addPageParts(
      Array.from({ length: Math.min(1000, LOADS - at) }, (_, i) => ({
        load: oneLoad(at + i + 1, nowMs),
        part: 1
      }))
    );
  await writer.addPageParts([{ load: bigLoad(nowMs), part: 1 }]);
  console.log(`${LOADS} loads booked in ${((performance.now() - begun) / 1000).toFixed(0)} s`);
  await writer.close();
}

async function started(): Promise<ChildProcess> {
  const server = fork(path.join(ROOT, 'web/server.mjs'), [], {
    env: { ...process.env, PORT: String(PORT), TROMIX_DATA: folder, TROMIX_KEEP_DAYS: '60' },
    silent: true
  });
  await new Promise((resolve) => server.once('message', resolve));
  return server;
}

const quantiles = (list: number[]): string => {
  const sorted = list.toSorted((a, b) => a - b);
  const at = (p: number): string =>
    sorted[Math.min(sorted.length - 1, Math.floor(p * sorted.length))].toFixed(0);
  return `p50 ${at(0.5)} ms, p95 ${at(0.95)} ms, worst ${at(1)} ms`;
};

async function asked(
  name: string,
  view: string,
  before: () => Promise<void> = () => Promise.resolve()
): Promise<void> {
  const times: number[] = [];
  for (let i = 0; i < ROUNDS; i++) {
    await before();
    const begun = performance.now();
    const answer = await fetch(`${SERVER}${view}`);
    await answer.arrayBuffer();
    if (!answer.ok) throw new Error(`${view}: ${answer.status}`);
    times.push(performance.now() - begun);
  }
  console.log(`${name}: ${quantiles(times)}`);
}

let sent = 0;
/** One more load, as a browser sends it. */
async function oneMore(): Promise<void> {
  const root = {
    traceId: (++sent).toString(16).padStart(32, 'e'),
    spanId: '1'.padStart(16, '0'),
    name: 'page load',
    startTimeUnixNano: '1000000000',
    endTimeUnixNano: '2000000000',
    attributes: [
      { key: 'url.full', value: { stringValue: 'https://quay.example/page/1' } },
      { key: 'tromix.page.sent_ms', value: { doubleValue: 1 } }
    ]
  };
  const answer = await fetch(`${SERVER}/collect`, {
    method: 'POST',
    headers: { 'content-type': 'text/plain' },
    body: JSON.stringify({ resourceSpans: [{ scopeSpans: [{ spans: [root] }] }] })
  });
  if (answer.status !== 204) throw new Error(await answer.text());
}

async function opened(): Promise<void> {
  const browser = await chromium.launch({
    executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
    args: ['--headless', '--no-sandbox', '--disable-gpu']
  });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const times: number[] = [];
  for (let i = 0; i < 12; i++) {
    await page.goto(`${SERVER}/pages?last=24h`);
    await page.waitForTimeout(500);
    times.push(
      await page.evaluate(async (to) => {
        const link = document.createElement('a');
        link.href = to;
        document.querySelector('main')!.append(link);
        const begun = performance.now();
        link.click();
        while (!document.querySelector('[role=treegrid] svg path[stroke="var(--pen)"][d^="M"]'))
          await new Promise((resolve) => requestAnimationFrame(resolve));
        return performance.now() - begun;
      }, `/pages/loads/${BIG}?last=24h`)
    );
  }
  console.log(
    `a load with ${MANY} resources, click to drawn: ${quantiles(times)}; the first ${times[0].toFixed(0)} ms`
  );
  await browser.close();
}

const nowMs = Date.now();
await fill(nowMs);
const server = await started();
try {
  const data = (view: string): string => `${view.replace('?', '/__data.json?')}`;
  await asked('Pages over 30 days', data('/pages?last=30d'));
  await asked('the same, each time after a load was booked', data('/pages?last=30d'), oneMore);
  await asked('the same, of phones', data('/pages?last=30d&device=phone'));
  await asked('one page over 30 days', data('/pages/1?last=30d'));
  await asked('the same, each time after a load was booked', data('/pages/1?last=30d'), oneMore);
  await opened();
} finally {
  server.kill('SIGTERM');
  rmSync(folder, { recursive: true, force: true });
}
