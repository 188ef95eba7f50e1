import { Session } from 'node:inspector/promises';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EvidenceError } from '../formats/evidence-error';
import { whoseV8 } from '../whose/v8';
import { flameLayout } from './flame-layout';
import { functionWeights, heaviestBranch, maxRecursion } from './functions';
import type { Profile } from './model';
import { between, slice, WHOLE } from './slice';
import { cpuStrip } from './strip';
import { anyProfile, read, readBytes, text, type Shape } from '../testing/any-profile';

const byName = (profile: Profile): Map<string, { self: number; total: number }> =>
  new Map(
    functionWeights(profile.frames, profile, slice(profile)).map(({ frame, self, total }) => [
      profile.frames[frame].name,
      { self, total }
    ])
  );

const MS = 1e6;
/** (root) → a → b → a, and (idle). */
const recursive: Shape = {
  nodes: [
    ['(root)', -1],
    ['a', 0],
    ['b', 1],
    ['a', 2],
    ['(idle)', 0]
  ],
  samples: [
    [1, 0],
    [3, 1000],
    [2, 1000],
    [4, 1000]
  ]
};

describe('readV8CpuProfile', () => {
  it('lets a sample last until the next, the last until the end', () => {
    const profile = read(recursive);
    expect([...profile.sampleTime]).toEqual([0, MS, 2 * MS, 3 * MS]);
    expect([...profile.sampleWeight]).toEqual([MS, MS, MS, MS]);
    expect(profile.durationNs).toBe(4 * MS);
  });

  it('counts recursion once in a total, and keeps idle apart', () => {
    const profile = read(recursive);
    expect(byName(profile).get('a')).toEqual({ self: 2 * MS, total: 3 * MS });
    expect(byName(profile).get('b')).toEqual({ self: MS, total: 2 * MS });
    expect(slice(profile)).toMatchObject({ sum: 3 * MS, idle: MS });
    expect(slice(profile, { ...WHOLE, includeIdle: true }).sum).toBe(4 * MS);
    expect(maxRecursion(profile.frames, profile)[profile.nodeFrame[1]]).toBe(2);
  });

  it('sorts samples out of order and says how many', () => {
    const { profile, warnings } = readBytes(
      text({
        ...recursive,
        samples: [
          [1, 0],
          [2, 3000],
          [3, -1000],
          [1, 2000]
        ]
      })
    );
    expect([...profile.sampleTime]).toEqual([0, 2 * MS, 3 * MS, 4 * MS]);
    expect(Math.min(...profile.sampleWeight)).toBeGreaterThanOrEqual(0);
    expect(warnings).toMatchObject([{ code: 'negative-delta', count: 1 }]);
  });

  it('keeps frames named like object internals or markup as data', () => {
    const profile = read({
      nodes: [
        ['(root)', -1],
        ['__proto__', 0],
        ['<img onerror=alert(1)>', 1],
        ['constructor', 2]
      ],
      samples: [
        [1, 0],
        [2, 1000],
        [3, 1000]
      ]
    });
    expect([...byName(profile).keys()].sort()).toEqual([
      '<img onerror=alert(1)>',
      '__proto__',
      'constructor'
    ]);
  });

  it('bears stacks 100,000 frames deep', () => {
    const nodes = Array.from({ length: 100_000 }, (_, i) => ({
      id: i + 1,
      callFrame: {
        functionName: i ? `f${i % 7}` : '(root)',
        url: i ? 'x.js' : '',
        lineNumber: 1,
        columnNumber: 1
      },
      children: i < 99_999 ? [i + 2] : []
    }));
    const { profile } = readBytes(
      JSON.stringify({ nodes, startTime: 0, endTime: 10, samples: [100_000], timeDeltas: [0] })
    );
    const weights = slice(profile);
    expect(flameLayout(profile, weights).rows).toBe(100_000);
    expect(heaviestBranch(profile, weights)).toHaveLength(100_000);
    expect(functionWeights(profile.frames, profile, weights)).toHaveLength(7);
  });

  it.each([
    ['', 'empty'],
    ['{"nodes": [', 'json-damaged'],
    ['[]', 'not-a-profile'],
    ['null', 'not-a-profile'],
    ['{"nodes": [], "samples": [], "timeDeltas": []}', 'not-a-profile'],
    ['{"nodes": [{}], "samples": [], "timeDeltas": [], "startTime": 0, "endTime": 1}', 'not-a-profile'],
    ['{"nodes": [{"id": 1, "callFrame": {}}], "startTime": 0, "endTime": 1}', 'not-a-profile']
  ])('words %s', (content, code) => {
    try {
      readBytes(content);
      expect.unreachable();
    } catch (cause) {
      expect((cause as EvidenceError).code).toBe(code);
    }
  });

  // Outside check: a profile recorded by V8 itself, of a function known to burn.
  it('reads what V8 records, and finds the function that burned', async () => {
    const session = new Session();
    session.connect();
    await session.post('Profiler.enable');
    await session.post('Profiler.setSamplingInterval', { interval: 200 });
    await session.post('Profiler.start');
    const until = Date.now() + 250;
    let burned = 0;
    const burnQuayside = (): void => {
      for (let i = 0; i < 20_000; i++) burned += Math.sqrt(i) % 3;
    };
    while (Date.now() < until) burnQuayside();
    const { profile: raw } = await session.post('Profiler.stop');
    session.disconnect();
    expect(burned).toBeGreaterThan(0);
    const { profile, warnings } = readBytes(JSON.stringify(raw));
    const [first] = functionWeights(profile.frames, profile, slice(profile));
    expect(warnings.map(({ code }) => code).filter((code) => code !== 'negative-delta')).toEqual([]);
    expect(profile.frames[first.frame].name).toBe('burnQuayside');
    expect(Math.abs(profile.durationNs - (raw.endTime - raw.startTime) * 1000)).toBeLessThanOrEqual(MS);
  });
});

describe('properties of profiles', () => {
  it('total is at least self, sums hold, and no function weighs more than the whole', () => {
    fc.assert(
      fc.property(anyProfile, (profile) => {
        const weights = slice(profile);
        const functions = functionWeights(profile.frames, profile, weights);
        const selves = functions.reduce((sum, { self }) => sum + self, 0);
        const rootSelf = weights.self[0];
        expect(Math.abs(selves + rootSelf - weights.sum)).toBeLessThan(1);
        for (const { self, total } of functions) {
          expect(total).toBeGreaterThanOrEqual(self - 1e-6);
          expect(total).toBeLessThanOrEqual(weights.sum + 1e-6);
        }
        const all = profile.sampleWeight.reduce((sum, weight) => sum + weight, 0);
        expect(Math.abs(weights.sum + weights.idle - all)).toBeLessThan(1);
      })
    );
  });

  it('neighbouring selections add up to the whole', () => {
    fc.assert(
      fc.property(anyProfile, fc.double({ min: 0, max: 1, noNaN: true }), (profile, part) => {
        const cut = profile.durationNs * part;
        const left = slice(profile, { ...between(0, cut), includeIdle: true });
        const right = slice(profile, { ...between(cut, Infinity), includeIdle: true });
        const whole = slice(profile, { ...WHOLE, includeIdle: true });
        expect(Math.abs(left.sum + right.sum - whole.sum)).toBeLessThan(1);
      })
    );
  });

  it('lays children out inside their parents, none over another', () => {
    fc.assert(
      fc.property(anyProfile, (profile) => {
        const { x, width, parent, depth } = flameLayout(profile, slice(profile));
        const edge = new Map<number, number>();
        for (let box = 1; box < x.length; box++) {
          expect(x[box]).toBeGreaterThanOrEqual(x[parent[box]] - 1e-9);
          expect(x[box] + width[box]).toBeLessThanOrEqual(x[parent[box]] + width[parent[box]] + 1e-9);
          expect(x[box]).toBeGreaterThanOrEqual((edge.get(depth[box]) ?? 0) - 1e-9);
          edge.set(depth[box], x[box] + width[box]);
        }
      })
    );
  });

  it('fills the strip with exactly the time that was not idle', () => {
    fc.assert(
      fc.property(anyProfile, fc.integer({ min: 1, max: 50 }), (profile, bins) => {
        const busy =
          cpuStrip(profile, bins).reduce((sum, share) => sum + share, 0) * (profile.durationNs / bins);
        expect(Math.abs(busy - slice(profile).sum)).toBeLessThan(profile.durationNs * 1e-5 + 1);
      })
    );
  });
});

describe('whose code a frame is', () => {
  it.each([
    ['f', 'file:///quay/plan.js', 'app', ''],
    ['f', 'node:internal/timers', 'runtime', ''],
    ['f', '/x/node_modules/@scope/pkg/lib/a.js', 'dependency', '@scope/pkg'],
    ['f', '/x/node_modules/.pnpm/dep@1.0.0/node_modules/dep/a.js', 'dependency', 'dep'],
    ['f', '/x/node_modules/outer/node_modules/inner/a.js', 'dependency', 'inner'],
    ['writev', '', 'native', ''],
    ['(idle)', '', 'idle', ''],
    ['(idle)', 'file:///quay/idle.js', 'app', '']
  ])('%s in %s is %s', (name, file, kind, from) =>
    expect(whoseV8(name, file)).toEqual({ kind, package: from })
  );

  // Source: V8 of the Node.js that runs the tests.
  it('takes evaluated code, which has lines and no address, for no native code', async () => {
    const session = new Session();
    session.connect();
    await session.post('Profiler.enable');
    await session.post('Profiler.setSamplingInterval', { interval: 100 });
    await session.post('Profiler.start');
    const evaluated = new Function(
      'until',
      'return (function sumOfBerths() { let n = 0; while (performance.now() < until) n++; return n; })()'
    ) as (until: number) => number;
    evaluated(performance.now() + 100);
    const { profile: recorded } = await session.post('Profiler.stop');
    session.disconnect();
    const call = recorded.nodes.find(({ callFrame }) => callFrame.functionName === 'sumOfBerths')!.callFrame;
    expect(call).toMatchObject({ url: '' });
    expect(call.lineNumber).toBeGreaterThanOrEqual(0);
    const { frames } = readBytes(JSON.stringify(recorded)).profile;
    expect(frames.find(({ name }) => name === 'sumOfBerths')).toMatchObject({ kind: 'app', file: '' });
  });
});

describe('a layout of the wider boxes alone', () => {
  it('has just those of the whole layout that are wider, with all that is above them', () => {
    fc.assert(
      fc.property(anyProfile, fc.double({ min: 0, max: 0.5, noNaN: true }), (profile, least) => {
        const weights = slice(profile);
        const boxes = (part: number): Map<number, [number, number]> => {
          const { node, depth, width } = flameLayout(profile, weights, part);
          return new Map([...node].map((one, i) => [one, [depth[i], width[i]]]));
        };
        const all = boxes(0);
        const wide = boxes(least);
        expect([...wide.keys()].sort()).toEqual(
          [...all]
            .flatMap(([node, [, width]]) =>
              weights.total[node] > least * weights.sum && width > 0 ? [node] : []
            )
            .sort()
        );
        for (const [node, box] of wide) expect(box).toEqual(all.get(node));
      })
    );
  });
});
