import { Session } from 'node:inspector/promises';

import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EvidenceError } from '../formats/evidence-error';
import { recognise } from '../formats/recognise';
import { anyProfile, read } from '../testing/any-profile';
import { busyWithin, unionOf } from './busy-within';
import { combineProfiles } from './combine';
import { looksFolded, readFolded } from './folded';
import { functionWeights } from './functions';

import type { Profile } from './model';
import { readProfile } from './read';
import { samplesIn } from './selected-samples';
import { shape, UNSHAPED } from './shape';
import { between, slice, WHOLE } from './slice';

import { readV8CpuProfile } from './v8-cpu';
import { readV8HeapProfile } from './v8-heap-profile';
import { writeFolded, writeV8CpuProfile } from './write';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const codeOf = (work: () => unknown): string => {
  try {
    work();
  } catch (cause) {
    return (cause as EvidenceError).code;
  }
  return 'none';
};
const named = (profile: Profile): Map<string, { self: number; total: number }> =>
  new Map(
    functionWeights(profile.frames, profile, slice(profile)).map(({ frame, self, total }) => [
      profile.frames[frame].name,
      { self, total }
    ])
  );

describe('folded stacks', () => {
  it('reads weights, shares beginnings, and takes places out of names', () => {
    const { profile, warnings } = readFolded(
      'main;plan (berths/plan.ts:8:3);sort 40\nmain;plan (berths/plan.ts:8:3) 10\n\nmain 5\n'
    );
    expect(named(profile)).toEqual(
      new Map([
        ['sort', { self: 40, total: 40 }],
        ['plan', { self: 10, total: 50 }],
        ['main', { self: 5, total: 55 }]
      ])
    );
    expect(profile.frames.find(({ name }) => name === 'plan')).toMatchObject({
      file: 'berths/plan.ts',
      line: 8,
      column: 3
    });
    expect(warnings).toEqual([]);
  });

  it('counts lines that are none, keeps names as data, and bears stacks 20,000 deep', () => {
    const deep = Array.from({ length: 20_000 }, (_, i) => `f${i % 9}`).join(';');
    const { profile, warnings } = readFolded(`__proto__;<b>x</b> 3\nno weight here\n${deep} 1\n`);
    expect(named(profile).get('<b>x</b>')).toEqual({ self: 3, total: 3 });
    expect(named(profile).get('__proto__')).toEqual({ self: 0, total: 3 });
    expect(warnings).toMatchObject([{ code: 'no-stack', count: 1 }]);
    expect(profile.nodeFrame.length).toBeGreaterThan(20_000);
  });

  it.each([
    ['', 'empty'],
    ['nothing of the kind', 'not-folded']
  ])('words %j', (text, code) => expect(codeOf(() => readFolded(text))).toBe(code));

  it('is distinguished from logs and other text', () => {
    expect(looksFolded('a;b;c 12\na;d 3\n')).toBe(true);
    expect(looksFolded('2026-11-23 10:00:00 LOG: duration: 12\nanother line 4\n')).toBe(false);
    expect(recognise(bytes('main;work 12\nmain;idle 3\n')).format).toBe('folded-stacks');
  });

  it('is written as it is read', () => {
    fc.assert(
      fc.property(anyProfile, (profile) => {
        const weights = slice(profile);
        const text = writeFolded(profile.frames, profile, weights, 'count');
        if (text === '') return;
        const again = readFolded(text).profile;
        const mine = new Map<string, number>();
        // Frames of one name at several places are one name in the text's sums.
        for (const [name, { self }] of named(again)) mine.set(name, self);
        const selves = new Map<string, number>();
        for (const { frame, self } of functionWeights(profile.frames, profile, weights)) {
          const { name } = profile.frames[frame];
          selves.set(name, (selves.get(name) ?? 0) + self);
        }
        for (const [name, self] of selves)
          expect(Math.abs((mine.get(name) ?? 0) - self)).toBeLessThan(profile.sampleNode.length + 1);
      })
    );
  });
});

describe('V8 sampling heap profiles', () => {
  // Outside check: a profile made by V8 itself, of a function known to allocate.
  it('names the function that allocated', async () => {
    const session = new Session();
    session.connect();
    await session.post('HeapProfiler.startSampling', {
      samplingInterval: 4096,
      includeObjectsCollectedByMajorGC: true,
      includeObjectsCollectedByMinorGC: true
    } as object);
    const kept: number[][] = [];
    const pileUpCrates = (): void => void kept.push(new Array<number>(5000).fill(1.5));
    for (let i = 0; i < 400; i++) pileUpCrates();
    const { profile: raw } = await session.post('HeapProfiler.stopSampling');
    session.disconnect();
    const { profile, warnings } = readV8HeapProfile(bytes(JSON.stringify(raw)));
    expect(warnings).toEqual([]);
    expect(profile).toMatchObject({ valueType: 'allocation', unit: 'bytes', durationNs: 0 });
    expect(kept).toHaveLength(400);
    const crates = named(profile).get('pileUpCrates')!;
    // 400 arrays of 5,000 elements of 8 bytes: 16 MB, of which the samples see most.
    expect(crates.total).toBeGreaterThan(8e6);
    expect(recognise(bytes(JSON.stringify(raw))).format).toBe('v8-heap-profile');
  });

  it.each([
    ['', 'empty'],
    ['{"head": ', 'json-damaged'],
    ['{"head": 3}', 'not-a-profile'],
    ['null', 'not-a-profile']
  ])('words %j', (text, code) => expect(codeOf(() => readV8HeapProfile(bytes(text)))).toBe(code));

  it('counts nodes without a size or a function, and bears trees 20,000 deep', () => {
    const frame = '"callFrame":{"functionName":"f","url":"","lineNumber":0,"columnNumber":0}';
    const depth = 20_000;
    const text = `{"head":{${frame},"selfSize":-4,"children":[${`{${frame},"selfSize":0,"children":[`.repeat(depth)}{${frame},"selfSize":8,"children":[{}]}${']}'.repeat(depth)}]}}`;
    const { profile, warnings } = readV8HeapProfile(bytes(text));
    expect(profile.nodeFrame.length).toBeGreaterThan(depth);
    expect(slice(profile).sum).toBe(8);
    expect(warnings.map(({ code }) => code).sort()).toEqual(['no-call-frame', 'no-size']);
  });
});

describe('writing V8 CPU profiles', () => {
  it('keeps every sample, its time and its stack', () => {
    fc.assert(
      fc.property(anyProfile, (profile) => {
        const tree = shape(profile, UNSHAPED);
        const text = writeV8CpuProfile(
          profile.frames,
          tree,
          samplesIn(profile, { ...WHOLE, includeIdle: true }, tree)
        );
        const again = readV8CpuProfile(bytes(text)).profile;
        const [mine, theirs] = [
          slice(profile, { ...WHOLE, includeIdle: true }),
          slice(again, { ...WHOLE, includeIdle: true })
        ];
        // Times are written in whole microseconds.
        expect(Math.abs(mine.sum - theirs.sum)).toBeLessThan(1000 * (profile.sampleNode.length + 1));
        const selves = (of: Profile, weights: typeof mine): Map<string, number> =>
          new Map(
            functionWeights(of.frames, of, weights).map(({ frame, self }) => [of.frames[frame].name, self])
          );
        const other = selves(again, theirs);
        for (const [name, self] of selves(profile, mine))
          expect(Math.abs((other.get(name) ?? 0) - self)).toBeLessThan(
            1000 * (profile.sampleNode.length + 1)
          );
      })
    );
  });

  it('writes a part as long as it is', () => {
    const profile = read({
      nodes: [
        ['(root)', -1],
        ['a', 0]
      ],
      samples: [
        [1, 0],
        [1, 5000],
        [1, 5000]
      ],
      endUs: 20_000
    });
    const tree = shape(profile, UNSHAPED);
    const text = writeV8CpuProfile(profile.frames, tree, samplesIn(profile, between(2e6, 9e6), tree));
    const again = readV8CpuProfile(bytes(text)).profile;
    expect(slice(again).sum).toBe(7e6);
  });
});

describe('several profiles as one', () => {
  const part = (name: string, weight: number): Profile => readFolded(`main;${name} ${weight}\n`).profile;
  it('keeps each apart as a thread, and together', () => {
    const whole = combineProfiles([
      { name: 'quay-1', profile: part('load', 4), offsetNs: 0 },
      { name: 'quay-2', profile: part('load', 6), offsetNs: 0 }
    ]);
    expect(whole.threads).toEqual(['quay-1', 'quay-2']);
    expect(slice(whole).sum).toBe(10);
    expect(slice(whole, { ...WHOLE, thread: 1 }).sum).toBe(6);
    expect(named(whole).get('load')).toEqual({ self: 10, total: 10 });
  });

  it('weighs a cut of samples that overlap between threads', () => {
    const cpu = read({
      nodes: [
        ['(root)', -1],
        ['a', 0]
      ],
      samples: [[1, 0]],
      endUs: 10_000
    });
    const whole = combineProfiles([
      { name: 'one', profile: cpu, offsetNs: 0 },
      { name: 'two', profile: cpu, offsetNs: 5e6 }
    ]);
    expect(whole.durationNs).toBe(15e6);
    expect(slice(whole, between(6e6, 8e6)).sum).toBe(4e6);
    expect(slice(whole, { ...between(6e6, 8e6), thread: 0 }).sum).toBe(2e6);
  });

  it('refuses what measures different things', () => {
    const cpu = read({
      nodes: [
        ['(root)', -1],
        ['a', 0]
      ],
      samples: [[1, 0]]
    });
    expect(
      codeOf(() =>
        combineProfiles([
          { name: 'a', profile: cpu, offsetNs: 0 },
          { name: 'b', profile: part('x', 1), offsetNs: 0 }
        ])
      )
    ).toBe('not-alike');
  });
});

/** One thread, or two that overlap. */
const anyThreads = fc
  .tuple(anyProfile, fc.option(fc.tuple(anyProfile, fc.nat(2e6))))
  .map(([profile, other]) =>
    combineProfiles([
      { name: 'a', profile, offsetNs: 0 },
      ...(other ? [{ name: 'b', profile: other[0], offsetNs: other[1] }] : [])
    ])
  );

describe('samples in a selection', () => {
  it('add up to what the selection weighs, of several threads too', () => {
    const part = fc.double({ min: 0, max: 1, noNaN: true });
    fc.assert(
      fc.property(anyThreads, part, part, (profile, a, b) => {
        const cut = between(Math.min(a, b) * profile.durationNs, Math.max(a, b) * profile.durationNs);
        let sum = 0;
        for (const { weightNs } of samplesIn(profile, cut, shape(profile, UNSHAPED))) sum += weightNs;
        expect(Math.abs(sum - slice(profile, cut).sum)).toBeLessThan(1);
      })
    );
  });
});

describe('time within stretches', () => {
  it('is what a cut of each stretch weighs', () => {
    fc.assert(
      fc.property(
        anyThreads,
        fc.array(
          fc.tuple(fc.double({ min: 0, max: 1, noNaN: true }), fc.double({ min: 0, max: 1, noNaN: true })),
          { maxLength: 8 }
        ),
        (profile, parts) => {
          const stretches = parts.map(([a, b]) => [
            Math.min(a, b) * profile.durationNs,
            Math.max(a, b) * profile.durationNs
          ]);
          const busy = busyWithin(profile, Float64Array.from(stretches.flat()));
          // Of one function: what a selection weighs that keeps its stacks alone.
          const frame = profile.nodeFrame[profile.nodeFrame.length - 1];
          const only = shape(profile, {
            ...UNSHAPED,
            acts: [{ act: 'only', target: { by: 'frame', frame } }]
          });
          busyWithin(profile, Float64Array.from(stretches.flat()), frame).forEach((ns, i) =>
            expect(ns).toBeCloseTo(slice(profile, between(stretches[i][0], stretches[i][1]), only).sum, 3)
          );
          stretches.forEach(([from, to], i) =>
            expect(Math.abs(busy[i] - slice(profile, between(from, to)).sum)).toBeLessThan(1)
          );
        }
      )
    );
  });

  it('joins stretches that meet, so that none counts twice', () => {
    const joined = unionOf(
      [
        { fromNs: 5, toNs: 9 },
        { fromNs: 1, toNs: 6 },
        { fromNs: 20, toNs: 30 }
      ],
      2,
      25
    );
    expect([...joined]).toEqual([2, 9, 20, 25]);
    const profile = read({
      nodes: [
        ['(root)', -1],
        ['a', 0]
      ],
      samples: [[1, 0]],
      endUs: 1000
    });
    expect(slice(profile, { ...WHOLE, spans: Float64Array.of(0, 1e5, 4e5, 6e5) }).sum).toBe(3e5);
  });
});

describe('reading by format', () => {
  it('reads what is recognised as a profile, and bears anything', () => {
    fc.assert(
      fc.property(fc.oneof(fc.string(), fc.json()), (text) => {
        try {
          const { kind, format } = recognise(bytes(text));
          if (kind === 'profile') readProfile(bytes(text), format);
        } catch (cause) {
          expect(cause).toBeInstanceOf(EvidenceError);
        }
      }),
      { numRuns: 500 }
    );
  });
});
