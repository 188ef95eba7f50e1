import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, readFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { afterEach, describe, expect, it } from 'vitest';
import { bytesSource } from '@tromix/core/heap/byte-source';
import { MemoryColumns } from '@tromix/core/heap/column-store';
import { readV8Snapshot } from '@tromix/core/heap/v8-snapshot';
import { functionWeights } from '@tromix/core/profile/functions';
import { recognise } from '@tromix/core/formats/recognise';
import { readProfile } from '@tromix/core/profile/read';
import { slice, WHOLE } from '@tromix/core/profile/slice';
import { readV8CpuProfile } from '@tromix/core/profile/v8-cpu';
import { readV8HeapProfile } from '@tromix/core/profile/v8-heap-profile';
import { allowedPlace, readPlaces, type Place } from './addresses';
import { Inspector, listAt } from './inspector';
import { heapCost, wantsAsking, type HeapCost } from './heap-cost';
import { heapCostWords } from './heap-cost-words';
import { readThreads } from '@tromix/core/threads/read';
import { dumpHeap, dumpThreads, factsOf, record } from './record';
import { longerBy } from './sampling-cost';

const children: ChildProcess[] = [];
afterEach(() => {
  for (const child of children.splice(0)) child.kill('SIGKILL');
});

/** Runs a program with its inspector open, and gives where. */
async function target(
  program: string,
  env: NodeJS.ProcessEnv = {}
): Promise<{ place: Place; child: ChildProcess }> {
  const child = spawn(process.execPath, ['--inspect=127.0.0.1:0', '-e', program], {
    stdio: ['ignore', 'pipe', 'pipe'],
    env: { ...process.env, NODE_OPTIONS: '', ...env }
  });
  children.push(child);
  const place = await new Promise<Place>((resolve, reject) => {
    let said = '';
    child.stdout!.resume();
    child.stderr!.on('data', (part: Buffer) => {
      said += String(part);
      const port = /ws:\/\/127\.0\.0\.1:(\d+)\//.exec(said)?.[1];
      if (port) resolve({ host: '127.0.0.1', port: Number(port) });
    });
    child.once('exit', () => reject(new Error(`The program ended. ${said}`)));
  });
  return { place, child };
}

/**
 * Burners that share the CPU about 60 : 25 : 10 : 5. They write after each round how long each of them has run by the clock, so that their true shares of
 * any time range are known, also on a machine that takes the core away in the middle of one.
 */
const BURNERS = `
  const ran = {};
  const until = (ms) => { const begun = performance.now(); let x = 0; while (performance.now() < begun + ms) for (let i = 0; i < 2000; i++) x += Math.sqrt(i); return performance.now() - begun; };
  function burnSixty() { return until(12); }
  function burnTwentyFive() { return until(5); }
  function burnTen() { return until(2); }
  function burnFive() { return until(1); }
  setInterval(() => {
    for (const burn of [burnSixty, burnTwentyFive, burnTen, burnFive]) ran[burn.name] = (ran[burn.name] ?? 0) + burn();
    console.log(JSON.stringify({ atMs: performance.timeOrigin + performance.now(), ran }));
  }, 1);
`;
/** Ten times the interval of the recording. */
const HELD_UP_NS = 5e6;
interface Round {
  atMs: number;
  ran: Record<string, number>;
}
/** How long each burner ran between two moments, milliseconds. */
function ranBetween(rounds: readonly Round[], fromMs: number, toMs: number): Map<string, number> {
  const before = rounds.findLast(({ atMs }) => atMs <= fromMs)!;
  const after = rounds.find(({ atMs }) => atMs >= toMs) ?? rounds.at(-1)!;
  return new Map(Object.entries(after.ran).map(([name, ms]) => [name, ms - (before.ran[name] ?? 0)]));
}
const never = new AbortController().signal;
const none = (): void => undefined;

describe('recording a process', () => {
  // Outside check: a program that measures its shares itself, recorded by V8.
  it('finds burners within 3 points of what they measured', { timeout: 20_000 }, async () => {
    const { place, child } = await target(BURNERS);
    let said = '';
    child.stdout!.on('data', (part: Buffer) => (said += String(part)));
    await sleep(300);
    const begun = Date.now();
    const { json, startedAtUs, cpuBefore, cpuDuring } = await record(
      place,
      { kind: 'cpu', seconds: 3, interval: 500 },
      never,
      none
    );
    const { profile } = readV8CpuProfile(new TextEncoder().encode(json));
    const weights = slice(profile);
    const share = (name: string): number => {
      const found = functionWeights(profile.frames, profile, weights).find(
        ({ frame }) => profile.frames[frame].name === name
      );
      return ((found?.total ?? 0) / weights.sum) * 100;
    };
    const rounds = said
      .split('\n')
      .slice(0, -1)
      .map((line) => JSON.parse(line) as Round);
    const fromMs = startedAtUs / 1000;
    const ran = ranBetween(rounds, fromMs, fromMs + profile.durationNs / 1e6);
    const all = [...ran.values()].reduce((sum, ms) => sum + ms, 0);
    expect([...ran.keys()]).toEqual(['burnSixty', 'burnTwentyFive', 'burnTen', 'burnFive']);
    // Where the machine held the sampler up, nobody knows who ran: by so much a share may differ beside.
    const unsampled = profile.sampleWeight.filter((ns) => ns > HELD_UP_NS).reduce((sum, ns) => sum + ns, 0);
    const within = 3 + (unsampled / profile.durationNs) * 100;
    for (const [name, ms] of ran) expect(Math.abs(share(name) - (ms / all) * 100), name).toBeLessThan(within);
    // The identity samples × interval = time, from the first sample on.
    const sampled = profile.sampleWeight.reduce((a, b) => a + b, 0);
    expect(Math.abs(sampled - (profile.durationNs - profile.sampleTime[0]))).toBeLessThan(1e6);
    expect(Math.abs(profile.durationNs / 1e9 - 3)).toBeLessThan(0.5);
    expect(startedAtUs / 1000).toBeGreaterThan(begun + 500);
    expect(startedAtUs / 1000).toBeLessThan(Date.now() - 2500);
    expect(cpuBefore).toBeGreaterThan(0.2);
    expect(cpuDuring).toBeGreaterThan(0.2);
  });

  it(
    'samples worker threads beside the main one, also those that start meanwhile',
    { timeout: 20_000 },
    async () => {
      const { place } = await target(`
      const { Worker } = require('node:worker_threads');
      const burn = 'const burn = (ms) => { const until = performance.now() + ms; let x = 0; while (performance.now() < until) x += Math.sqrt(x + 1); return x; };';
      const worker = (name) => new Worker(burn + 'function ' + name + '() { return burn(20); } setInterval(' + name + ', 1)', { eval: true });
      eval(burn + 'function planBerths() { return burn(8); } setInterval(planBerths, 20);');
      worker('sumTides');
      setTimeout(() => worker('stampManifests'), 2600);
      const ends = worker('passesBy');
      setTimeout(() => ends.terminate(), 2600);
    `);
      await sleep(300);
      const { json } = await record(place, { kind: 'cpu', seconds: 3, interval: 1000 }, never, none);
      const content = new TextEncoder().encode(json);
      expect(recognise(content)).toEqual({ kind: 'profile', format: 'trace-events' });
      const { profile, warnings } = readProfile(content, 'trace-events');
      // The one that was ended took its samples with it.
      expect(warnings).toMatchObject([{ code: 'empty-thread', count: 1 }]);
      const ofThread = (thread: number): string[] => {
        const weights = slice(profile, { ...WHOLE, thread });
        return functionWeights(profile.frames, profile, weights).map(
          ({ frame }) => profile.frames[frame].name
        );
      };
      const ran = profile.threads.map((name, i): [string, string[]] => [name, ofThread(i)]);
      const own = ['planBerths', 'sumTides', 'stampManifests', 'passesBy'];
      expect(
        ran.map(([name, names]) => [name.replace(/\d+/, 'n'), names.filter((one) => own.includes(one))])
      ).toEqual([
        ['main', ['planBerths']],
        ['worker n', ['sumTides']],
        ['worker n', ['stampManifests']]
      ]);
      // The one that was there all the time computed all the time.
      expect(slice(profile, { ...WHOLE, thread: 1 }).sum / profile.durationNs).toBeGreaterThan(0.5);
    }
  );

  it('takes what a process does at the moment, in the middle of a computation, without its environment', async () => {
    const { place } = await target(
      'function dredge() { const end = Date.now() + 50; while (Date.now() < end); } (function fairway() { dredge(); setImmediate(fairway); })();',
      { HARBOUR_SECRET: 'windlass-42' }
    );
    await sleep(300);
    const { json } = await dumpThreads(place);
    expect(json).not.toContain('windlass-42');
    const { series } = readThreads(new TextEncoder().encode(json), 'node-report');
    const frames = Array.from(series.dumps[0].threads[0].frames, (frame) => series.frames[frame].name);
    expect(frames.slice(0, 2)).toEqual(['dredge', expect.stringContaining('fairway')]);
  });

  it('records who allocates', async () => {
    const { place } = await target(
      'const keep = []; setInterval(function stowCargo() { for (let i = 0; i < 20; i++) keep.push(new Array(1000).fill(0.5)); if (keep.length > 2000) keep.length = 0; }, 2);'
    );
    const { json } = await record(place, { kind: 'allocation', seconds: 1, interval: 16_384 }, never, none);
    const { profile } = readV8HeapProfile(new TextEncoder().encode(json));
    const weights = slice(profile);
    const found = functionWeights(profile.frames, profile, weights).find(
      ({ frame }) => profile.frames[frame].name === 'stowCargo'
    );
    expect(found!.total / weights.sum).toBeGreaterThan(0.8);
  });

  it('takes a heap dump, with what the program keeps', async () => {
    const { place } = await target(
      'class Mooring { constructor(i) { this.berth = i; } } const kept = []; for (let i = 0; i < 5000; i++) kept.push(new Mooring(i)); setInterval(() => kept.length, 50);'
    );
    await sleep(300);
    const file = path.join(mkdtempSync(path.join(tmpdir(), 'dump-')), 'heap.heapsnapshot');
    const { stoppedMs } = await dumpHeap(place, file, 1e9, never);
    expect(stoppedMs).toBeGreaterThan(0);
    const columns = new MemoryColumns();
    const { dump } = readV8Snapshot(bytesSource(readFileSync(file)), columns);
    const wanted = dump.classes.findIndex(({ name }) => name === 'Mooring');
    expect(columns.get('classOf').filter((one) => one === wanted)).toHaveLength(5000);
  });

  it('learns who the process is, and that it is in development mode', async () => {
    const { place, child } = await target('setInterval(() => {}, 50)', {
      OTEL_SERVICE_NAME: 'tides',
      OTEL_RESOURCE_ATTRIBUTES: 'service.version=7.3, host.name=quay-3',
      NODE_ENV: 'development'
    });
    let facts: object = {};
    await record(place, { kind: 'cpu', seconds: 1, interval: 1000 }, never, (found) => (facts = found));
    expect(facts).toEqual({
      pid: child.pid,
      service: 'tides',
      release: '7.3',
      host: 'quay-3',
      development: true
    });
  });

  it('asks again while the process only starts, and gives up on what is none', async () => {
    const facts = { pid: 7, host: 'quay-3', service: 'tides', release: '', development: false };
    const saying = (...answers: unknown[]): Parameters<typeof factsOf>[0] => ({
      evaluate: <T>() => Promise.resolve(answers.shift() as T | undefined)
    });
    expect(await factsOf(saying(undefined, undefined, facts))).toEqual(facts);
    await expect(factsOf(saying())).rejects.toThrow(/does not say that it is a Node\.js process/);
  });

  it('can be ended early and keeps what there is', async () => {
    const { place } = await target(BURNERS);
    const stop = new AbortController();
    setTimeout(() => stop.abort('stop'), 2200);
    const begun = Date.now();
    const { json } = await record(place, { kind: 'cpu', seconds: 60, interval: 1000 }, stop.signal, none);
    expect(Date.now() - begun).toBeLessThan(8000);
    expect(readV8CpuProfile(new TextEncoder().encode(json)).profile.sampleNode.length).toBeGreaterThan(100);
  });

  it('lets a process exit at once, and keeps what it had until then', async () => {
    const { place, child } = await target(`${BURNERS} setTimeout(() => process.exit(3), 3000);`);
    const exited = new Promise<number | null>((resolve) => child.once('exit', resolve));
    const begun = Date.now();
    const { json } = await record(place, { kind: 'cpu', seconds: 60, interval: 1000 }, never, none);
    expect(await exited).toBe(3);
    expect(Date.now() - begun).toBeLessThan(10_000);
    expect(readV8CpuProfile(new TextEncoder().encode(json)).profile.sampleNode.length).toBeGreaterThan(50);
  });

  it('ends at once, and in words, when the process dies', async () => {
    const { place, child } = await target(BURNERS);
    setTimeout(() => child.kill('SIGKILL'), 1800);
    await expect(record(place, { kind: 'cpu', seconds: 60, interval: 1000 }, never, none)).rejects.toThrow(
      'The process ended'
    );
  });

  it('gives up in words on a process that stops answering', async () => {
    const { place, child } = await target('setInterval(() => {}, 50)');
    const recording = record(place, { kind: 'cpu', seconds: 2, interval: 1000 }, never, () =>
      child.kill('SIGSTOP')
    );
    await expect(recording).rejects.toThrow('did not answer within 10 s');
  });

  it('says where nothing listens, and does not follow a redirect', async () => {
    const order = { kind: 'cpu' as const, seconds: 1, interval: 1000 };
    await expect(record({ host: '127.0.0.1', port: 1 }, order, never, none)).rejects.toThrow(
      'No process with an open inspector'
    );
    const server = createServer((socket) =>
      socket.end('HTTP/1.1 302 Found\r\nLocation: http://192.0.2.1/json/list\r\nContent-Length: 0\r\n\r\n')
    );
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const { port } = server.address() as { port: number };
    await expect(listAt({ host: '127.0.0.1', port })).rejects.toThrow();
    server.close();
  });
});

describe('what recording costs', () => {
  it('is how much longer the same work takes, the middle half of it', () => {
    const without = [10, 10, 10, 10, 40, 10, 10, 10, 10];
    expect(longerBy(without, [10.5, 10.5, 10.5, 10.4, 10.6, 10.7, 10.5, 90, 1])).toEqual({
      low: expect.closeTo(0.05, 9) as number,
      high: expect.closeTo(0.06, 9) as number
    });
    expect(longerBy([0, 0, 0], [1, 1, 1])).toBeNull();
  });

  it('is measured by work that is in no profile and leaves nothing in the process', async () => {
    const { place } = await target(BURNERS);
    const globals = async (): Promise<string[] | undefined> => {
      const inspector = await Inspector.open(place);
      const names = await inspector.evaluate<string[]>('Object.getOwnPropertyNames(globalThis)');
      inspector.close();
      return names;
    };
    // `node -e` gives itself names of its own while it starts.
    await sleep(500);
    const before = await globals();
    for (const kind of ['cpu', 'allocation'] as const) {
      const { json, cost } = await record(place, { kind, seconds: 1, interval: 1000 }, never, none);
      expect(cost!.high).toBeGreaterThanOrEqual(cost!.low);
      expect(cost!.low).toBeGreaterThan(-0.9);
      expect(json).not.toContain('"functionName":"below"');
      expect(json).toContain('"functionName":"burnSixty"');
    }
    expect(await globals()).toEqual(before);
  });

  it('of a heap dump is recognised by its objects, which are counted where it may be much', async () => {
    const costOf = async (objects: number): Promise<{ cost: HeapCost; place: Place }> => {
      const { place } = await target(
        `const kept = []; for (let i = 0; i < ${objects}; i++) kept.push({ berth: i, next: null }); setInterval(() => kept.length, 50);`
      );
      await sleep(1500);
      const inspector = await Inspector.open(place);
      const cost = await heapCost(inspector);
      inspector.close();
      return { cost: cost!, place };
    };
    const { cost: small } = await costOf(1000);
    expect(small.counted).toBe(false);
    expect(wantsAsking(small)).toBe(false);
    const { cost: large, place } = await costOf(1_200_000);
    expect(large.counted).toBe(true);
    expect(large.objects).toBeGreaterThan(1_200_000);
    expect(large.objects).toBeLessThan(1_400_000);
    // Twice the room each way: other work shares this machine.
    const file = path.join(mkdtempSync(path.join(tmpdir(), 'dump-')), 'heap.heapsnapshot');
    const { stoppedMs } = await dumpHeap(place, file, 1e9, never);
    expect(stoppedMs).toBeGreaterThan(large.ms.low / 2);
    expect(stoppedMs).toBeLessThan(large.ms.high * 2);
  }, 60_000);

  it('of a heap dump is said in words, and whether it fits', () => {
    const cost: HeapCost = {
      objects: 13_000_000,
      counted: true,
      heapBytes: 570e6,
      freeBytes: 6e9,
      countMs: 14_000,
      ms: { low: 65_000, high: 156_000 },
      bytes: { low: 3.9e9, high: 19.5e9 }
    };
    expect(wantsAsking(cost)).toBe(true);
    expect(heapCostWords(cost).replaceAll(/\s/gu, ' ')).toBe(
      'Its heap holds 570 MB in 13 000 000 objects; counting them stopped it for about 14 s. A dump stops it for about 65 s to 2.6 min and takes 3.9 GB to 19.5 GB of the 6 GB that are free. It may not fit.'
    );
    expect(heapCostWords({ ...cost, freeBytes: 1e9 })).toContain('It does not fit.');
    expect(heapCostWords({ ...cost, counted: false, freeBytes: 20e9 })).toMatch(
      /objects at most\. A dump.*free\.$/
    );
    expect(wantsAsking({ ...cost, ms: { low: 1, high: 2 }, freeBytes: 20e9 })).toBe(false);
  });
});

describe('addresses', () => {
  it('reads places and ranges', () => {
    expect(
      readPlaces('127.0.0.1:9229-9231, 10.0.0.7:9300').map(({ host, port }) => `${host} ${port}`)
    ).toEqual(['127.0.0.1 9229', '127.0.0.1 9230', '127.0.0.1 9231', '10.0.0.7 9300']);
    for (const wrong of ['9229', 'host', 'a:0', 'a:9-3', 'a:70000', '127.0.0.1:1-60000'])
      expect(() => readPlaces(wrong)).toThrow('TROMIX_INSPECT');
  });

  it.each([
    ['127.0.0.1:9229', true],
    ['127.8.0.1:9229', true],
    ['localhost:9229', true],
    ['[::1]:9229', true],
    ['ws://127.0.0.1:9229/abc', true],
    ['10.0.0.7:9300', true],
    ['10.0.0.7:9301', false],
    ['127.0.0.1:5432', false],
    ['localhost:9230', false],
    ['127.0.0.1.example.net:9229', false],
    ['192.0.2.1:80', false],
    ['127.0.0.1', false],
    ['127.0.0.1:9229@192.0.2.1:80', false]
  ])('%s may be recorded: %s', (address, allowed) => {
    expect('refused' in allowedPlace(address, readPlaces('127.0.0.1:9229, 10.0.0.7:9300'))).toBe(!allowed);
  });
});
