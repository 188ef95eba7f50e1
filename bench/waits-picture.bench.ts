/**
 * The picture of who blocks whom in Chromium: 10,000 threads from the click and from the address to the picture, and frame times while a queue of 5,000
 * threads, all unfolded, is scrolled without a pause. Needs the built application.
 */
import { fork } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { performance } from 'node:perf_hooks';
import { gzipSync } from 'node:zlib';
import { chromium } from '@playwright/test';
import { SERVER_ENV } from '../web/server-env.mjs';
import { quantileSorted } from '../core/src/stats/percentile';
import { queueDump } from './queue-dump';

const ROOT = path.resolve(import.meta.dirname, '..');
const PORT = 4496;
const ADDRESS = `http://127.0.0.1:${PORT}`;
const MOVES_MS = 4000;
const ROUNDS = 5;
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
  const drawn = async (open: () => Promise<unknown>): Promise<number> => {
    await page.goto(`${ADDRESS}/threads?last=24h`);
    await page.locator(`a[href*="${id}"]`).first().waitFor();
    const begun = performance.now();
    await open();
    await page.locator('[data-box="0"]').waitFor();
    return (performance.now() - begun) / 1000;
  };
  const clicked: number[] = [];
  const opened: number[] = [];
  for (let i = 0; i < ROUNDS; i++) {
    clicked.push(await drawn(() => page.locator(`a[href*="${id}"]`).first().click()));
    opened.push(await drawn(() => page.goto(`${ADDRESS}/threads/${id}?unfold=http-worker-*`)));
  }
  clicked.sort((a, b) => a - b);
  opened.sort((a, b) => a - b);
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
  const spread = (seconds: readonly number[]): string =>
    `median ${quantileSorted(seconds, 0.5).toFixed(2)} s, worst ${quantileSorted(seconds, 1).toFixed(2)} s`;
  const at = (p: number): string => quantileSorted(times, p).toFixed(1);
  console.log(
    `10,000 threads of 60 frames, ${(text.length / 1e6).toFixed(0)} MB: from a click in the list to the picture ${spread(clicked)}, from the address typed anew ${spread(opened)}`
  );
  console.log(`a queue of 5,000 scrolled: frames p50 ${at(0.5)} ms, p95 ${at(0.95)} ms, worst ${at(1)} ms`);
} finally {
  await browser.close();
  server.kill();
  rmSync(folder, { recursive: true, force: true });
}
