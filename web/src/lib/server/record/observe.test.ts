import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { setTimeout as sleep } from 'node:timers/promises';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import type { Place } from './addresses';
import { Observation, type Observed, type ObserveOrder } from './observe';

/** A program that knows what it calls with what: each tenth call throws. */
const PROGRAM = `let ship = 0;
function berthOf(ship, { length, token }) {
  if (ship % 10 === 9) throw new RangeError('no berth for ship ' + ship);
  const until = performance.now() + 5;
  while (performance.now() < until);
  return { berth: ship * 2, length };
}
const fits = (a, b) => a <= b;
async function book(ship) {
  await new Promise((resolve) => setTimeout(resolve, 20));
  return 'booked ' + ship;
}
function parse(text) {
  for (let form = 0; form < 3; form++) try { throw new Error('does not fit ' + form); } catch {}
  return text.length;
}
function unload() {
  try { throw new Error('the crane is stuck'); } catch {}
  const until = performance.now() + 1200;
  while (performance.now() < until);
  return 'unloaded';
}
if (process.argv[2] === 'slow') setInterval(unload, 200);
function plan() {
  ship++;
  fits(ship, 100);
  for (let line = 0; line < 40; line++) parse('line ' + line);
  try { berthOf(ship, { length: 220, token: 'hunter2hunter2' }); } catch {}
}
setInterval(plan, 30);
setInterval(() => void book(ship), 100);
`;
const lines = PROGRAM.split('\n');
/** Where samples name a function: at its parameters. */
const placeOf = (start: string): { line: number; column: number } => {
  const line = lines.findIndex((text) => text.startsWith(start));
  return { line: line + 1, column: lines[line].indexOf('(', start.indexOf('=') + 1) + 1 };
};

const folder = mkdtempSync(path.join(tmpdir(), 'tromix-observe-'));
const file = path.join(folder, 'quay', 'berths.mjs');
let child: ChildProcess;
let place: Place;

beforeAll(async () => {
  const { mkdirSync } = await import('node:fs');
  mkdirSync(path.dirname(file));
  writeFileSync(file, PROGRAM);
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));
afterEach(() => void child.kill('SIGKILL'));

async function start(...options: string[]): Promise<void> {
  child = spawn(process.execPath, ['--inspect=127.0.0.1:0', file, ...options], {
    stdio: ['ignore', 'ignore', 'pipe'],
    env: { ...process.env, NODE_OPTIONS: '' }
  });
  place = await new Promise<Place>((resolve) =>
    child.stderr!.on('data', (part: Buffer) => {
      const port = /ws:\/\/127\.0\.0\.1:(\d+)\//.exec(String(part))?.[1];
      if (port) resolve({ host: '127.0.0.1', port: Number(port) });
    })
  );
  await sleep(300);
}

async function observe(order: Partial<ObserveOrder>): Promise<Observed> {
  const { observed } = await Observation.start(place, {
    name: '',
    file: pathToFileURL(file).href,
    line: 1,
    column: 1,
    calls: 5,
    seconds: 10,
    share: 0.5,
    ...order
  });
  while (observed.ended === '') await sleep(20);
  return observed;
}

describe('one function from inside', () => {
  it('tells arguments, results and exceptions of each call, for how long and by whom', async () => {
    await start();
    const { calls, ended, pausedMs, ranMs } = await observe({
      ...placeOf('function berthOf'),
      calls: 12,
      // On a busy machine it looks away else, and misses some.
      share: 0.95,
      seconds: 30
    });
    expect(ended).toBe('It saw 12 calls.');
    expect(calls).toHaveLength(12);
    const first = Number(calls[0].arguments[0].value);
    calls.forEach((call, i) => {
      const ship = first + i;
      expect(call.arguments[0]).toEqual({ name: 'ship', value: String(ship) });
      expect(call.stack[0]).toMatch(/^plan berths\.mjs:\d+$/);
      if (ship % 10 === 9)
        expect(call.result).toEqual({ how: 'threw', value: `RangeError: no berth for ship ${ship}` });
      else expect(call.result).toEqual({ how: 'returned', value: `{ berth: ${ship * 2}, length: 220 }` });
      expect(call.pausedMs).toBeGreaterThan(0);
    });
    // A busy machine holds up one or the other; the pauses are in none.
    const took = calls.flatMap(({ tookMs }) => tookMs ?? []).sort((a, b) => a - b);
    expect(took[0]).toBeLessThan(100);
    expect(took[took.length >> 1]).toBeGreaterThan(3);
    expect(pausedMs).toBeLessThan(ranMs);
  });

  it('masks what a value gives away by its name', async () => {
    await start();
    const { calls } = await observe({ ...placeOf('function plan'), calls: 1 });
    expect(calls[0].arguments).toEqual([]);
    const { calls: given } = await observe({ ...placeOf('function berthOf'), calls: 2 });
    expect(JSON.stringify(given)).not.toContain('hunter2');
  });

  it('sees a function of one expression, and one that goes on after an await', async () => {
    await start();
    const { calls } = await observe({ ...placeOf('const fits'), calls: 3 });
    expect(calls.map(({ result }) => result?.value)).toEqual(['true', 'true', 'true']);
    expect(calls[0].arguments[1]).toEqual({ name: 'b', value: '100' });
    const { calls: booked } = await observe({ ...placeOf('async function book'), calls: 2 });
    for (const { result, tookMs, arguments: given } of booked) {
      expect(result).toEqual({ how: 'returned', value: `"booked ${given[0].value}"` });
      expect(tookMs).toBeGreaterThan(15);
    }
  });

  it('finds the function that a line of a stack or a source lies in', async () => {
    await start();
    const lineOf = (text: string): number => lines.findIndex((line) => line.includes(text)) + 1;
    const inside = await observe({ line: lineOf('const until'), column: 0, calls: 1 });
    const named = await observe({
      line: lineOf('berthOf(ship, { length: 220'),
      column: 0,
      name: 'Object.plan',
      calls: 1
    });
    const arrow = await observe({ line: lineOf('const fits'), column: 0, calls: 1 });
    expect(inside.found).toEqual({ name: 'berthOf', line: lineOf('function berthOf') });
    expect(inside.calls[0].arguments[0]).toMatchObject({ name: 'ship' });
    expect(named).toMatchObject({
      found: { name: 'plan', line: lineOf('function plan') },
      ended: 'It saw 1 call.',
      calls: [{ result: { how: 'returned', value: 'undefined' } }]
    });
    expect(arrow.found?.name).toBe('fits');
    expect(arrow.calls[0].result).toEqual({ how: 'returned', value: 'true' });
    await expect(observe({ line: 1, column: 0 })).rejects.toThrow(/Line 1 of that file lies in no function/);
    expect(
      (await observe({ line: lineOf('const until'), column: 0, name: 'unload', calls: 1 })).ended
    ).toMatch(/runs berthOf, and not unload/);
  });

  it('does not say that a call threw which caught it, however long it goes on', async () => {
    await start('slow');
    const whole = await observe({ ...placeOf('function unload'), calls: 1 });
    expect(whole.calls[0].result).toEqual({ how: 'returned', value: '"unloaded"' });
    // Its end was not seen when the time was over.
    const short = await observe({ ...placeOf('function unload'), calls: 5, seconds: 1 });
    expect(short.calls.at(-1)?.result?.how).not.toBe('threw');
  });

  it('stays near its share where calls come at once and throw inside, and sees how they end', async () => {
    await start();
    const { calls, pausedMs, ranMs } = await observe({
      ...placeOf('function parse'),
      calls: 4,
      seconds: 20,
      share: 0.05
    });
    expect(calls.map(({ result }) => result?.how)).toEqual(['returned', 'returned', 'returned', 'returned']);
    const longest = calls.reduce((most, call) => Math.max(most, call.pausedMs), 0);
    expect(pausedMs).toBeLessThan(0.05 * ranMs + 2 * longest + 20);
  });

  it('takes no more than its share of the time, and leaves nothing behind', async () => {
    await start();
    const {
      calls: seen,
      pausedMs,
      ranMs,
      rests,
      ended
    } = await observe({
      ...placeOf('const fits'),
      calls: 10_000,
      seconds: 3,
      share: 0.01
    });
    expect(ended).toBe('Its time was over.');
    expect(rests).toBeGreaterThan(0);
    // One pause may be longer than what is left of the share.
    const longest = seen.reduce((most, call) => Math.max(most, call.pausedMs), 0);
    expect(pausedMs).toBeLessThan(0.01 * ranMs + 3 * longest + 20);
    const { calls } = await observe({ ...placeOf('const fits'), calls: 1 });
    expect(calls).toHaveLength(1);
  });

  it('says what is wrong: no such file, no such function, a process that dies meanwhile', async () => {
    await start();
    await expect(observe({ file: 'file:///quay/elsewhere.mjs' })).rejects.toThrow(/runs no file/);
    await expect(observe({ line: 900 })).rejects.toThrow(/No function begins at line 900/);
    const dying = observe({ ...placeOf('async function book'), calls: 1000 });
    await sleep(300);
    child.kill('SIGKILL');
    expect((await dying).ended).toMatch(/The process ended/);
  });
});
