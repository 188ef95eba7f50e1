/**
 * The picture of who holds up whom in Chromium: 10,000 threads from the address to the picture, and frame times while a queue of 5,000
 * threads, all unfolded, is scrolled without a pause. Needs the built application.
 */
import { fork } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { performance } from 'node:perf_hooks';
import { gzipSync } from 'node:zlib';
import { chromium } from '@playwright/test';
import { SERVER_ENV } from '../scripts/server-env.mjs';
import { quantileSorted } from '../core/src/stats/percentile';
import { queueDump } from './queue-dump';

const ROOT = path.resolve(import.meta.dirname, '..');
const PORT = 4496;
const ADDRESS = `http://127.0.0.1:${PORT}`;
const MOVES_MS = 4000;
const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-waits-'));
const server = fork(path.join(ROOT, 'web/server.mjs'), [], {
  env: { ...SERVER_ENV, ...process.env, PORT: String(PORT), TROMIX_DATA: folder },
  silent: true
});
await new Promise((resolve) => server.once('message', resolve));
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: ['--headless', '--no-sandbox', '--disable-gpu']
});
try {
  const text = queueDump(10_000, 60, 5000);
  const answer = await fetch(`${ADDRESS}/api/evidence?service=pilots`, {
    method: 'POST',
    body: gzipSync(text)
  });
  const { id } = (await answer.json()) as { id: string };
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`${ADDRESS}/threads`);
  const begun = performance.now();
  await page.goto(`${ADDRESS}/threads/${id}?unfold=http-worker-*`);
  await page.locator('[data-box="0"]').waitFor();
  const opened = performance.now() - begun;
  const times = await page.evaluate(async (forMs) => {
    const scroller = document
      .querySelector<HTMLElement>('[data-box="0"]')!
      .closest<HTMLElement>('.overflow-auto')!;
    const frames: number[] = [];
    let last = performance.now();
    for (const until = last + forMs; last < until;) {
      scroller.scrollTop = (scroller.scrollTop + 90) % (scroller.scrollHeight - scroller.clientHeight);
      const now = await new Promise<number>((resolve) => requestAnimationFrame(resolve));
      frames.push(now - last);
      last = now;
    }
    return frames.slice(1);
  }, MOVES_MS);
  times.sort((a, b) => a - b);
  const at = (p: number): string => quantileSorted(times, p).toFixed(1);
  console.log(
    `10,000 threads of 60 frames, ${(text.length / 1e6).toFixed(0)} MB: from the address to the picture in ${(opened / 1000).toFixed(2)} s`
  );
  console.log(`a queue of 5,000 scrolled: frames p50 ${at(0.5)} ms, p95 ${at(0.95)} ms, worst ${at(1)} ms`);
} finally {
  await browser.close();
  server.kill();
  rmSync(folder, { recursive: true, force: true });
}
