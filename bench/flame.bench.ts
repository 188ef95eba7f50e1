/**
 * The flame picture in Chromium: frame times while it is zoomed and panned without a pause, of 200,000 frames and of an hour at
 * one sample a millisecond; and how long a moved selection takes in the worker. Needs the built application.
 */
import { fork } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { performance } from 'node:perf_hooks';
import { gzipSync } from 'node:zlib';
import { chromium, type Page } from '@playwright/test';
import { SERVER_ENV } from '../web/server-env.mjs';
import { syntheticProfile } from './synthetic-profile';

const ROOT = path.resolve(import.meta.dirname, '..');
const PORT = 4497;
const ADDRESS = `http://127.0.0.1:${PORT}`;
const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-flame-'));
const MOVES_MS = 4000;

const server = fork(path.join(ROOT, 'web/server.mjs'), [], {
  env: { ...SERVER_ENV, ...process.env, PORT: String(PORT), TROMIX_DATA: folder },
  silent: true
});
await new Promise((resolve) => server.once('message', resolve));
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: ['--headless', '--no-sandbox', '--disable-gpu']
});

async function upload(text: string): Promise<string> {
  const response = await fetch(`${ADDRESS}/api/evidence?name=bench`, {
    method: 'POST',
    body: gzipSync(text)
  });
  if (response.status !== 201) throw new Error(await response.text());
  return ((await response.json()) as { id: string }).id;
}

/** Frame times while the wheel zooms and pans over the picture, one move a frame. */
async function frameTimes(page: Page): Promise<number[]> {
  return page.evaluate(async (forMs) => {
    const canvas = document.querySelector<HTMLCanvasElement>('[data-testid=flame]')!;
    const bounds = canvas.getBoundingClientRect();
    const times: number[] = [];
    let last = performance.now();
    const until = last + forMs;
    let step = 0;
    while (last < until) {
      const zooming = Math.floor(step / 30) % 2 === 0;
      canvas.dispatchEvent(
        new WheelEvent('wheel', {
          bubbles: true,
          cancelable: true,
          clientX: bounds.left + bounds.width * (0.3 + 0.4 * ((step % 50) / 50)),
          clientY: bounds.top + 100,
          ctrlKey: zooming,
          deltaY: zooming ? (Math.floor(step / 60) % 2 === 0 ? -60 : 60) : 0,
          deltaX: zooming ? 0 : step % 2 === 0 ? 40 : 25
        })
      );
      step++;
      await new Promise(requestAnimationFrame);
      const now = performance.now();
      times.push(now - last);
      last = now;
    }
    return times;
  }, MOVES_MS);
}

const at = (sorted: number[], p: number): string =>
  sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * p))].toFixed(1);

async function measure(name: string, text: string): Promise<void> {
  const id = await upload(text);
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const begun = performance.now();
  await page.goto(`${ADDRESS}/profiles/${id}`);
  await page.waitForSelector('[data-testid=flame]', { timeout: 120_000 });
  const opened = performance.now() - begun;
  await page.waitForTimeout(1000);
  const times = (await frameTimes(page)).sort((a, b) => a - b);
  const slices: number[] = [];
  const strip = (await page.getByTestId('cpu-strip').boundingBox())!;
  await page.mouse.move(strip.x + 100, strip.y + 30);
  await page.mouse.down();
  for (let i = 1; i <= 30; i++) {
    await page.mouse.move(strip.x + 100 + i * 12, strip.y + 30);
    await page.waitForTimeout(90);
    slices.push(Number(await page.getByTestId('flame').getAttribute('data-took')));
  }
  await page.mouse.up();
  slices.sort((a, b) => a - b);
  console.log(`${name}, ${(text.length / 1e6).toFixed(0)} MB of text`);
  console.log(`  from the address to the picture        ${(opened / 1000).toFixed(1)} s`);
  console.log(
    `  frame while zooming and panning        p50 ${at(times, 0.5)} ms, p95 ${at(times, 0.95)} ms, worst ${at(times, 1)} ms of ${times.length}   (must reach 60 frames/s: 16.7 ms)`
  );
  console.log(
    `  a moved selection in the worker        p50 ${at(slices, 0.5)} ms, worst ${at(slices, 1)} ms   (must reach 16 ms)`
  );
  await page.close();
}

await measure('200,000 frames, 600,000 samples', syntheticProfile(600_000, 200_000, 5000));
await measure('an hour at 1 ms: 3,600,000 samples, 40,000 frames', syntheticProfile(3_600_000, 40_000, 2500));
await browser.close();
server.kill('SIGTERM');
await new Promise((resolve) => server.once('exit', resolve));
rmSync(folder, { recursive: true, force: true });
