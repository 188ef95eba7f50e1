import fc from 'fast-check';
import { sum as sumOf } from 'simple-statistics';
import { describe, expect, it } from 'vitest';
import { believable, levelAmong } from './false-discovery';
import { fisherTest } from './fisher-test';
import { rankTestOf } from './rank-test';

describe('many tests at once', () => {
  // Source: the worked example of Y. Benjamini, Y. Hochberg (1995), section 3.2: fifteen hypotheses on thrombolysis after infarction, of which four are believed at 5 %.
  const published = [
    0.0001, 0.0004, 0.0019, 0.0095, 0.0201, 0.0278, 0.0298, 0.0344, 0.0459, 0.324, 0.4262, 0.5719, 0.6528,
    0.759, 1
  ];
  it('believes what the published example believes, in whatever order it is asked', () => {
    const believed = (ps: number[]): number[] =>
      ps.filter((_, at) => believable(ps).believed[at]).sort((a, b) => a - b);
    expect(believed(published)).toEqual(published.slice(0, 4));
    fc.assert(
      fc.property(fc.shuffledSubarray(published, { minLength: published.length }), (ps) => {
        expect(believed(ps)).toEqual(published.slice(0, 4));
      })
    );
  });
  it('leaves out what was not tested', () => {
    expect(believable([NaN, 0.01, NaN])).toEqual({ believed: [false, true, false], tested: 1 });
    expect(believable([])).toEqual({ believed: [], tested: 0 });
  });
  it('draws intervals wider the fewer of many are believed', () => {
    expect(levelAmong(1, 1)).toBeCloseTo(0.95, 12);
    expect(levelAmong(15, 4)).toBeCloseTo(1 - (4 * 0.05) / 15, 12);
  });
});

describe('shares of two sides', () => {
  // Source: R. A. Fisher, "The Design of Experiments" (1935), the lady who tastes tea: three of four cups told right have probability 17 ÷ 70 one-sided, twice that two-sided.
  it('gives the published example', () => expect(fisherTest(3, 4, 1, 4)).toBeCloseTo(34 / 70, 10));
  it('is the sum over all tables with these sums', () => {
    const choose = (n: number, k: number): number =>
      k === 0 || k === n ? 1 : choose(n - 1, k - 1) + choose(n - 1, k);
    const group = fc
      .integer({ min: 1, max: 9 })
      .chain((all) => fc.tuple(fc.integer({ min: 0, max: all }), fc.constant(all)));
    fc.assert(
      fc.property(group, group, ([a, allA], [b, allB]) => {
        const ways = (k: number): number =>
          k > allA || a + b - k > allB || a + b < k ? 0 : choose(allA, k) * choose(allB, a + b - k);
        const all = Array.from({ length: a + b + 1 }, (_, k) => ways(k));
        const unlikely = all.filter((count) => count <= ways(a));
        expect(fisherTest(a, allA, b, allB)).toBeCloseTo(sumOf(unlikely) / sumOf(all), 9);
      })
    );
  });
  it('takes large sides, and sides that are alike', () => {
    expect(fisherTest(500, 50_000, 500, 50_000)).toBeCloseTo(1, 6);
    expect(fisherTest(500, 50_000, 700, 50_000)).toBeLessThan(1e-7);
    expect(fisherTest(0, 0, 3, 4)).toBe(1);
  });
});

describe('the rank test of values', () => {
  it('counts the pairs in which the second is longer, ties by half', () => {
    const values = fc.array(fc.integer({ min: 1, max: 12 }), { minLength: 1, maxLength: 40 });
    fc.assert(
      fc.property(values, values, (a, b) => {
        let pairs = 0;
        for (const x of a) for (const y of b) pairs += y > x ? 1 : y === x ? 0.5 : 0;
        expect(rankTestOf(a, b)!.superiority).toBeCloseTo(pairs / (a.length * b.length), 10);
      })
    );
  });
  // Worked example: two groups of five without overlap: z = 12 / sqrt(25 · 11 / 12) = 2.5067, p = 0.0122; of half as many independent samples
  // z is smaller by the root of two: 1.7725, p = 0.0763 (table of the normal distribution).
  it('gives the worked example, and less sure of samples that depend on each other', () => {
    const [a, b] = [
      [1, 2, 4, 8, 16],
      [100, 200, 400, 800, 1600]
    ];
    expect(rankTestOf(a, b)!.p).toBeCloseTo(0.0122, 4);
    expect(rankTestOf(a, b, { first: 2, second: 2 })!.p).toBeCloseTo(0.0763, 4);
    expect(rankTestOf([], b)).toBeNull();
  });
});
