import { describe, expect, it } from 'vitest';
import { read } from '../testing/any-profile';
import { slice } from '../profile/slice';
import type { Profile } from '../profile/model';
import { readProfile } from '../profile/read';
import { PROFILE_RULES, type ProfileRule } from './profile-rules';
import { findInProfile } from './profile-findings';
import type { ProfileFinding } from './profile-finding';

/** A profile of 1 ms samples: how often each node was the leaf. */
function profile(nodes: [string, number][], counts: Record<number, number>): Profile {
  const samples = Object.entries(counts).flatMap(([node, count]) =>
    Array.from({ length: count }, (): [number, number] => [Number(node), 1000])
  );
  samples[0][1] = 0;
  return read({ nodes: [['(root)', -1], ...nodes], samples, endUs: samples.length * 1000 });
}
const find = (of: Profile): ProfileFinding<ProfileRule>[] => findInProfile(of, slice(of));
const rulesOf = (of: Profile): ProfileRule[] => find(of).map(({ rule }) => rule);

describe('hot-function', () => {
  it('names the function and its callers with their shares', () => {
    const found = find(
      profile(
        [
          ['main', 0],
          ['often', 1],
          ['seldom', 1],
          ['work', 2],
          ['work', 3],
          ['rest', 1],
          ['other', 1],
          ['third', 1]
        ],
        { 4: 42, 5: 18, 6: 14, 7: 13, 8: 13 }
      )
    );
    expect(found).toHaveLength(1);
    expect(found[0]).toMatchObject({ rule: 'hot-function', severity: 'high', figures: { share: 0.6 } });
    expect(found[0].evidence.callers.map(({ name, share }) => [name, share])).toEqual([
      ['often', 0.7],
      ['seldom', 0.3]
    ]);
    expect(found[0].sentence).toContain('often (quay/plan.js:5) for 70');
  });

  it('says nothing of work that is spread, nor of too few samples', () => {
    const nodes: [string, number][] = Array.from({ length: 10 }, (_, i) => [`f${i}`, 0]);
    expect(rulesOf(profile(nodes, Object.fromEntries(nodes.map((_, i) => [i + 1, 12]))))).toEqual([]);
    expect(rulesOf(profile([['a', 0]], { 1: 50 }))).toEqual([]);
  });

  it('takes the weight of folded stacks for their samples', () => {
    const folded = (weight: number): Profile =>
      readProfile(new TextEncoder().encode(`main;work ${weight}\nmain;rest 1\n`), 'folded-stacks').profile;
    expect(rulesOf(folded(98))).toEqual([]);
    expect(rulesOf(folded(99))).toEqual(['hot-function']);
  });
});

describe('deep-recursion', () => {
  const chain = (depth: number): [string, number][] =>
    Array.from({ length: depth }, (_, i) => ['descend', i]);
  it('tells the depth and the share', () => {
    const found = find(profile([...chain(40), ['leaf', 40], ['x', 0]], { 41: 60, 42: 60 })).find(
      ({ rule }) => rule === 'deep-recursion'
    );
    expect(found).toMatchObject({ figures: { depth: 40, share: 0.5 } });
    expect(found!.sentence).toContain('up to 40 deep');
  });
  it('bears a wide tree that is deep in one place only', () => {
    const wide: [string, number][] = [...chain(40), ['leaf', 40], ['leaf', 2], ['leaf', 3]];
    // Nearly all of it runs at the second and third level.
    expect(rulesOf(profile(wide, { 41: 2, 42: 60, 43: 60 }))).not.toContain('deep-recursion');
  });
  it('bears a walk a dozen deep', () => {
    expect(rulesOf(profile([...chain(12), ['x', 0]], { 12: 60, 13: 60 }))).not.toContain('deep-recursion');
  });
});

describe('thrown-for-control', () => {
  it('adds up constructors and stack capture, and blames the nearest own frame', () => {
    const found = find(
      profile(
        [
          ['handle', 0],
          ['tryForm', 1],
          ['StampError', 2],
          ['captureStackTrace', 3],
          ['work', 1],
          ['b', 1],
          ['c', 1],
          ['d', 1],
          ['e', 1]
        ],
        {
          3: 10,
          4: 20,
          5: 20,
          6: 18,
          7: 16,
          8: 18,
          9: 18
        }
      )
    );
    expect(found[0]).toMatchObject({
      rule: 'thrown-for-control',
      figures: { share: 0.25 },
      saving: { lowNs: 30e6, highNs: 30e6 }
    });
    expect(found[0].evidence.callers[0]).toMatchObject({ name: 'tryForm', share: 1 });
  });
  it('lets exceptions be that are exceptional', () => {
    expect(
      rulesOf(
        profile(
          [
            ['work', 0],
            ['StampError', 1],
            ['b', 0],
            ['c', 0]
          ],
          { 1: 10, 2: 4, 3: 53, 4: 53 }
        )
      )
    ).not.toContain('thrown-for-control');
  });
});

describe('pause-pressure', () => {
  it('tells the collector’s share and what ran before it, without blaming', () => {
    const of = read({
      nodes: [
        ['(root)', -1],
        ['fill', 0],
        ['(garbage collector)', 0],
        ['rest', 0]
      ],
      samples: Array.from({ length: 200 }, (_, i): [number, number] => [
        i % 4 === 1 ? 2 : i % 4 === 0 ? 1 : 3,
        i ? 1000 : 0
      ]),
      endUs: 200_000
    });
    const found = find(of).find(({ rule }) => rule === 'pause-pressure');
    expect(found).toMatchObject({ figures: { share: 0.25 } });
    expect(found!.evidence.callers[0]).toMatchObject({ name: 'fill', share: 1 });
    expect(found!.sentence).toContain('do not say who allocated');
  });
  it('says nothing of an ordinary collector', () => {
    expect(
      rulesOf(
        profile(
          [
            ['a', 0],
            ['(garbage collector)', 0],
            ['b', 0]
          ],
          { 1: 60, 2: 5, 3: 60 }
        )
      )
    ).not.toContain('pause-pressure');
  });
});

describe('the rules’ pages', () => {
  it('have a name of their own for each rule, and thresholds', () => {
    expect(new Set(PROFILE_RULES.map(({ rule }) => rule)).size).toBe(PROFILE_RULES.length);
    for (const { thresholds } of PROFILE_RULES) expect(thresholds.length).toBeGreaterThan(0);
  });
});

it.each([
  ['cpu', 'nanoseconds', ['hot-function']],
  ['other', 'nanoseconds', ['hot-function']],
  ['memory', 'bytes', []],
  ['waiting', 'nanoseconds', []],
  ['other', 'count', []]
] as const)('says of %s in %s what can be done about it', (valueType, unit, rules) => {
  const work = profile([['work', 0]], { 1: 200 });
  expect(rulesOf({ ...work, valueType, unit })).toEqual(rules);
});
