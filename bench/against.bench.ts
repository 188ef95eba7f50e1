/**
 * Spans a second through `/v1/traces`, of this checkout against those of another revision (AGAINST, by default the one before): both built, both asked in
 * turns in one run, since machines are noisy. What must hold: checks at the door cost little.
 */
import { execFileSync, fork } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { SERVER_ENV } from '../web/server-env.mjs';
import { otlpBatch, SPANS } from './otlp-batch';

const ROOT = path.resolve(import.meta.dirname, '..');
const REVISION = process.env.AGAINST ?? 'HEAD~1';
const BATCHES = 16;
const ROUNDS = 7;
const git = (...args: string[]): string => execFileSync('git', args, { cwd: ROOT, encoding: 'utf8' }).trim();

/** The other revision, built, in a work tree of its own. */
function otherCheckout(): string {
  const revision = git('rev-parse', '--short', REVISION);
  const place = path.join(ROOT, '.tmp', `against-${revision}`);
  if (!existsSync(place)) git('worktree', 'add', '--detach', place, revision);
  // Packages of its own: those of this checkout lead back to this checkout.
  if (!existsSync(path.join(place, 'node_modules')))
    execFileSync('npm', ['ci', '--no-audit', '--no-fund'], { cwd: place, stdio: 'ignore' });
  if (!existsSync(path.join(place, 'web/build/handler.js')))
    execFileSync('npm', ['run', 'build', '-w', 'web', '--silent'], { cwd: place, stdio: 'ignore' });
  return place;
}

/** Spans a second until all are stored, and until all are booked. */
async function measure(checkout: string, batches: Uint8Array[]): Promise<{ stored: number; booked: number }> {
  const data = mkdtempSync(path.join(os.tmpdir(), 'tromix-against-'));
  const child = fork(path.join(checkout, 'web/server.mjs'), [], {
    silent: true,
    execArgv: [],
    env: { ...process.env, ...SERVER_ENV, PORT: '4498', TROMIX_DATA: data, TROMIX_SETTLE_MS: '50' }
  });
  const port = await new Promise<number>((resolve, reject) => {
    child.once('message', (message: { ready: number }) => resolve(message.ready));
    child.once('exit', (code) => reject(new Error(`The server of ${checkout} did not start (${code}).`)));
  });
  const send = async (body: Uint8Array): Promise<void> => {
    const response = await fetch(`http://127.0.0.1:${port}/v1/traces`, {
      method: 'POST',
      headers: { 'content-type': 'application/x-protobuf' },
      body: new Uint8Array(body)
    });
    if (response.status !== 200) throw new Error(`It answered ${response.status}.`);
    await response.arrayBuffer();
  };
  await send(batches[0]);
  const begun = performance.now();
  for (const body of batches.slice(1)) await send(body);
  const storedMs = performance.now() - begun;
  const wanted = batches.length * (SPANS / 25);
  for (;;) {
    const text = await (await fetch(`http://127.0.0.1:${port}/__data.json`)).text();
    if (text.includes(`,${wanted},`)) break;
    if (performance.now() - begun > 120_000) throw new Error('Not everything was booked in two minutes.');
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  const bookedMs = performance.now() - begun;
  child.removeAllListeners('exit');
  const gone = new Promise((resolve) => child.once('exit', resolve));
  child.kill('SIGKILL');
  await gone;
  rmSync(data, { recursive: true, force: true });
  const spans = (batches.length - 1) * SPANS;
  return { stored: (spans / storedMs) * 1000, booked: (spans / bookedMs) * 1000 };
}

const other = otherCheckout();
const batches = Array.from({ length: BATCHES }, (_, i) => otlpBatch(i + 1));
const ratios: { stored: number[]; booked: number[] } = { stored: [], booked: [] };
for (let round = 0; round <= ROUNDS; round++) {
  const order = round % 2 === 0 ? [ROOT, other] : [other, ROOT];
  const found = new Map<string, { stored: number; booked: number }>();
  for (const checkout of order) found.set(checkout, await measure(checkout, batches));
  const [here, there] = [found.get(ROOT)!, found.get(other)!];
  if (round === 0) continue;
  console.log(
    `stored ${here.stored.toFixed(0)} against ${there.stored.toFixed(0)} spans/s, booked ${here.booked.toFixed(0)} against ${there.booked.toFixed(0)}`
  );
  for (const what of ['stored', 'booked'] as const) ratios[what].push(here[what] / there[what]);
}
for (const [what, list] of Object.entries(ratios)) {
  const sorted = [...list].sort((a, b) => a - b);
  console.log(
    `${what} against ${REVISION}: ${sorted[Math.floor(sorted.length / 2)].toFixed(2)} (${sorted[0].toFixed(2)} to ${sorted.at(-1)!.toFixed(2)})`
  );
}
