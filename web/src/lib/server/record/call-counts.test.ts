import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { afterAll, describe, expect, it } from 'vitest';
import { findInProfile } from '@tromix/core/findings/profile-findings';
import type { Profile } from '@tromix/core/profile/model';
import { slice } from '@tromix/core/profile/slice';
import { readV8CpuProfile } from '@tromix/core/profile/v8-cpu';
import type { Place } from './addresses';
import { record, type RecordingOrder } from './record';

/** A program that works when it is told to, and so knows how often each of its functions was called. */
const PROGRAM = `
class Berth { constructor(length) { this.length = length; } fits(ship) { return ship <= this.length; } }
const berths = Array.from({ length: 50 }, (_, i) => new Berth(i));
const twice = (x) => x * 2;
function look(ship) {
  let found = 0;
  for (const berth of berths) if (berth.fits(ship)) found += twice(1);
  return found;
}
function plan(ships) { let sum = 0; for (let ship = 0; ship < ships; ship++) sum += look(ship % 60); return sum; }
process.on('SIGUSR2', () => { plan(300000); console.log('done'); });
setInterval(() => undefined, 1000);
`;
/** Calls of each function for one signal: 300,000 ships look at 50 berths each, and a berth of length l fits the ships up to it. */
const SHIPS = 300_000;
const fitting = Array.from({ length: SHIPS }, (_, ship) => Math.max(0, 50 - (ship % 60))).reduce(
  (sum, found) => sum + found,
  0
);
const CALLED = { plan: 1, look: SHIPS, fits: SHIPS * 50, twice: fitting };

const folder = mkdtempSync(path.join(tmpdir(), 'tromix-counts-'));
let child: ChildProcess | undefined;
afterAll(() => {
  child?.kill('SIGKILL');
  rmSync(folder, { recursive: true, force: true });
});

async function recorded(order: Partial<RecordingOrder>): Promise<Profile> {
  const file = path.join(folder, 'berths.mjs');
  writeFileSync(file, PROGRAM);
  const started = spawn(process.execPath, ['--inspect=127.0.0.1:0', file], {
    stdio: ['ignore', 'pipe', 'pipe'],
    env: { ...process.env, NODE_OPTIONS: '' }
  });
  child = started;
  const place = await new Promise<Place>((resolve) =>
    started.stderr.on('data', (part: Buffer) => {
      const port = /ws:\/\/127\.0\.0\.1:(\d+)\//.exec(String(part))?.[1];
      if (port) resolve({ host: '127.0.0.1', port: Number(port) });
    })
  );
  await sleep(300);
  const stop = new AbortController();
  started.stdout.on('data', () => setTimeout(() => stop.abort(), 300));
  const { json } = await record(
    place,
    { kind: 'cpu', seconds: 30, interval: 1000, unmeasured: true, ...order },
    stop.signal,
    // It counts a second later: until then the program sleeps.
    () => void setTimeout(() => started.kill('SIGUSR2'), 2000)
  );
  started.kill('SIGKILL');
  return readV8CpuProfile(new TextEncoder().encode(json)).profile;
}

const countsOf = ({ frames, calls }: Profile): Record<string, number> =>
  Object.fromEntries(
    frames.flatMap(({ name, file }, frame) =>
      file.endsWith('berths.mjs') && name in CALLED ? [[name, calls![frame]]] : []
    )
  );

// Outside check: a program that knows how often it calls what.
describe('counting calls', () => {
  // Counts are exact each time; samples of half a second tell little where a busy machine takes the core away.
  it('is exact beside samples, at the places samples name', { timeout: 60_000, retry: 3 }, async () => {
    const profile = await recorded({ calls: 'beside' });
    expect(countsOf(profile)).toEqual(CALLED);
    const weights = slice(profile);
    const looked = profile.frames.findIndex(({ name }) => name === 'look');
    // The very frame that has samples has the count.
    expect(weights.total[profile.nodeFrame.indexOf(looked)]).toBeGreaterThan(0);
    const often = findInProfile(profile, weights).filter(({ rule }) => rule === 'called-often');
    // What V8 inlines (here “fits”) is counted, but its time is its caller’s.
    expect(often.map(({ evidence }) => evidence.function?.name)).toEqual(['look']);
    expect(often[0].sentence).toMatch(
      /was called 300\D?000 times, about [\d.]+ µs each: .* Called from plan/
    );
  });

  it('is exact without samples', { timeout: 60_000 }, async () => {
    const profile = await recorded({ calls: 'alone' });
    expect(countsOf(profile)).toEqual(CALLED);
    expect(profile.sampleNode.length).toBe(0);
    expect(profile.durationNs).toBeGreaterThan(0);
  });
});
