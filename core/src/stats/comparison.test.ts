import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { LIFT_MAX_P, LIFT_MIN, LIFT_MIN_SUPPORT, liftsOf } from './lift';
import { linearFit } from './linear-fit';
import { changeBetween, changeOverStrata, rankTest, stratifiedRankTest, upperTail } from './rank-test';
import { apdexFromSketch, apdexZone } from './apdex';
import { addBucket, bucketOf, emptySketch, mergeInto, type Sketch } from './sketch';

const sketchOf = (values: readonly number[]): Sketch => {
  const sketch = emptySketch();
  for (const value of values) addBucket(sketch, bucketOf(value), 1);
  return sketch;
};

describe('rankTest', () => {
  // Outside check: U counted pair by pair, as Mann and Whitney define it.
  it('counts the pairs in which the second is longer, ties by half', () => {
    const buckets = fc.array(fc.integer({ min: 1, max: 12 }), { minLength: 1, maxLength: 40 });
    fc.assert(
      fc.property(buckets, buckets, (a, b) => {
        const sketch = (list: number[]): Sketch => {
          const made = emptySketch();
          for (const bucket of list) addBucket(made, bucket, 1);
          return made;
        };
        let pairs = 0;
        for (const x of a) for (const y of b) pairs += y > x ? 1 : y === x ? 0.5 : 0;
        expect(rankTest(sketch(a), sketch(b))!.superiority).toBeCloseTo(pairs / (a.length * b.length), 10);
      })
    );
  });

  // Worked example: two groups of five without overlap have U = 0 (25 on the other side); by the normal approximation with
  // continuity correction z = (12.5 − 0.5) / sqrt(25 · 11 / 12) = 2.5067, two-sided p = 0.0122 (table of the normal distribution).
  it('gives the worked example', () => {
    const test = rankTest(sketchOf([1, 2, 4, 8, 16]), sketchOf([100, 200, 400, 800, 1600]))!;
    expect(test.superiority).toBe(1);
    expect(test.p).toBeCloseTo(0.0122, 4);
  });

  it('is at rest with equal groups, and has nothing to say of none', () => {
    const still = rankTest(sketchOf([1, 5, 9]), sketchOf([1, 5, 9]))!;
    expect(still.superiority).toBe(0.5);
    expect(still.p).toBeCloseTo(1, 6);
    expect(rankTest(emptySketch(), sketchOf([1]))).toBeNull();
  });

  // Source: tables of the standard normal distribution.
  it.each([
    [0, 0.5],
    [1.6449, 0.05],
    [1.96, 0.025],
    [3.0902, 0.001]
  ])('upper tail of %d is %d', (z, p) => expect(upperTail(z)).toBeCloseTo(p, 4));
});

describe('stratifiedRankTest', () => {
  const normal = (middle: number, count: number): Sketch =>
    sketchOf(Array.from({ length: count }, (_, i) => middle * (0.9 + (0.2 * i) / count)));

  // The definition: of one stratum it is the rank test, but for the correction for continuity, which nobody has for several.
  it('of one stratum is the rank test', () => {
    const [first, second] = [normal(100, 200), normal(101, 300)];
    const alone = rankTest(first, second)!;
    const stratified = stratifiedRankTest([{ first, second }])!;
    expect(stratified.superiority).toBeCloseTo(alone.superiority, 12);
    expect(stratified.p).toBeCloseTo(alone.p, 2);
  });

  // Worked by hand from the definition: two strata of two against two without ties. U = 4 of 4 and 2 of 4, each of mean 2 and
  // variance 2·2·5/12, weighed by 1/5: distance (2 + 0)/5, variance 2·(5/3)/25, z = 0.4/√(0.13333) = 1.09545, p = 0.2733.
  it('gives what is worked by hand', () => {
    const test = stratifiedRankTest([
      { first: sketchOf([1, 2]), second: sketchOf([10, 20]) },
      { first: sketchOf([100, 800]), second: sketchOf([200, 400]) }
    ])!;
    expect(test.superiority).toBeCloseTo(6 / 8, 12);
    expect(test.p).toBeCloseTo(0.2733, 4);
  });

  it('is not misled by another mix of fast and slow endpoints', () => {
    const strata = [
      { first: normal(10, 900), second: normal(10, 100) },
      { first: normal(1000, 100), second: normal(1000, 900) }
    ];
    const together = (side: 'first' | 'second'): Sketch => {
      const sum = emptySketch();
      for (const one of strata) mergeInto(sum, one[side]);
      return sum;
    };
    expect(rankTest(together('first'), together('second'))!.p).toBeLessThan(1e-6);
    expect(changeOverStrata(strata).verdict).toBe('no clear change');
    const slower = strata.map(({ first, second }, i) => ({
      first,
      second: i === 0 ? normal(13, 100) : second
    }));
    expect(changeOverStrata([slower[0]])).toMatchObject({ verdict: 'slower', ratio: expect.closeTo(1.3, 1) });
  });

  it('has nothing to say where no stratum has both sides', () => {
    expect(stratifiedRankTest([{ first: emptySketch(), second: normal(1, 30) }])).toBeNull();
    expect(changeOverStrata([])).toMatchObject({ verdict: 'too few' });
  });
});

describe('changeBetween', () => {
  const spread = (middle: number, count: number): Sketch =>
    sketchOf(Array.from({ length: count }, (_, i) => middle * (0.9 + (0.2 * i) / count)));
  it('is sure of a change only with enough requests, a notable size and no chance', () => {
    expect(changeBetween(spread(100, 50), spread(200, 50), [100, 200])).toMatchObject({
      verdict: 'slower',
      ratio: 2
    });
    expect(changeBetween(spread(200, 50), spread(100, 50), [200, 100]).verdict).toBe('faster');
    expect(changeBetween(spread(100, 50), spread(100, 50), [100, 100]).verdict).toBe('no clear change');
    expect(changeBetween(spread(100, 5000), spread(102, 5000), [100, 102]).verdict).toBe('no clear change');
    expect(changeBetween(spread(100, 19), spread(200, 500), [100, 200]).verdict).toBe('too few');
  });
});

describe('linearFit', () => {
  // Source: a line through points on it is that line; with noise, the textbook example y = 1, 3, 2, 5 over x = 1 … 4 has slope 1.1,
  // intercept 0 and r² = 0.6914.
  it('gives the worked example', () => {
    const fit = linearFit([1, 2, 3, 4], [1, 3, 2, 5])!;
    expect(fit.slope).toBeCloseTo(1.1, 10);
    expect(fit.intercept).toBeCloseTo(0, 10);
    expect(fit.r2).toBeCloseTo(0.6914, 4);
  });
  it('leaves rests that add up to nothing, by themselves and over x: the normal equations', () => {
    const point = fc.tuple(fc.integer({ min: -1000, max: 1000 }), fc.integer({ min: -1000, max: 1000 }));
    fc.assert(
      fc.property(fc.array(point, { minLength: 2, maxLength: 40 }), (points) => {
        const fit = linearFit(
          points.map(([x]) => x),
          points.map(([, y]) => y)
        );
        if (new Set(points.map(([x]) => x)).size < 2) return expect(fit).toBeNull();
        const rest = points.map(([x, y]) => y - (fit!.intercept + fit!.slope * x));
        expect(Math.abs(rest.reduce((sum, one) => sum + one, 0))).toBeLessThan(1e-6);
        expect(Math.abs(rest.reduce((sum, one, i) => sum + one * points[i][0], 0))).toBeLessThan(1e-3);
        expect(fit!.r2).toBeGreaterThanOrEqual(0);
        expect(fit!.r2).toBeLessThanOrEqual(1 + 1e-9);
      })
    );
  });
  it('has no line through one x', () => expect(linearFit([2, 2], [1, 5])).toBeNull());
});

describe('liftsOf', () => {
  it('finds the planted cause and nothing that is chance', () => {
    // Value 7 is on 80 % of the slow and 5 % of the others; 1 on all; 2 on half of both; 3 on two slow ones only.
    const rows = Array.from({ length: 1000 }, (_, i) => {
      const slow = i % 10 === 0;
      const keys = [1];
      if (i % 2 === Math.floor(i / 10) % 2) keys.push(2);
      if (slow ? i % 50 !== 0 : i % 20 === 3) keys.push(7);
      if (i === 0 || i === 10) keys.push(3);
      return { slow, keys };
    });
    const { slow, others, lifts } = liftsOf(rows);
    expect([slow, others]).toEqual([100, 900]);
    expect(lifts.map(({ key }) => key)).toEqual([7]);
    expect(lifts[0]).toMatchObject({ slow: 80, slowShare: 0.8 });
    expect(lifts[0].lift).toBeCloseTo(0.8 / (lifts[0].others / 900), 10);
  });
});

describe('lifts of any requests', () => {
  it('are the shares counted by hand, and none that the thresholds leave out', () => {
    const row = fc.record({ slow: fc.boolean(), keys: fc.uniqueArray(fc.nat(4), { maxLength: 3 }) });
    fc.assert(
      fc.property(fc.array(row, { maxLength: 120 }), (rows) => {
        const { slow, others, lifts } = liftsOf(rows);
        const slowRows = rows.filter((one) => one.slow);
        const otherRows = rows.filter((one) => !one.slow);
        expect([slow, others]).toEqual([slowRows.length, otherRows.length]);
        for (const lift of lifts) {
          const has = ({ keys }: { keys: number[] }): boolean => keys.includes(lift.key);
          expect([lift.slow, lift.others]).toEqual([
            slowRows.filter(has).length,
            otherRows.filter(has).length
          ]);
          expect(lift.slowShare).toBeCloseTo(lift.slow / slow, 12);
          expect(lift.otherShare).toBeCloseTo(lift.others / others, 12);
          expect(lift.slow).toBeGreaterThanOrEqual(LIFT_MIN_SUPPORT);
          expect(lift.lift).toBeGreaterThanOrEqual(LIFT_MIN);
          expect(lift.p).toBeLessThanOrEqual(LIFT_MAX_P);
        }
        const telling = lifts.map((lift) => lift.slowShare - lift.otherShare);
        expect(telling).toEqual(telling.toSorted((a, b) => b - a));
      }),
      { numRuns: 200 }
    );
  });
});

describe('apdexFromSketch', () => {
  it('agrees with the zones of the values, but for those within 2 % of a bound', () => {
    const values = fc.array(fc.tuple(fc.integer({ min: 1, max: 5000 }), fc.boolean()), { maxLength: 100 });
    fc.assert(
      fc.property(values, (samples) => {
        const clear = samples.filter(([ms]) => Math.abs(ms - 500) > 10 && Math.abs(ms - 2000) > 40);
        const expected = { satisfied: 0, tolerating: 0, frustrated: 0 };
        for (const [ms, failed] of clear) expected[apdexZone(ms, 500, failed)]++;
        const us = (failedOnly: boolean): number[] =>
          clear.filter(([, failed]) => failed || !failedOnly).map(([ms]) => ms * 1000);
        expect(apdexFromSketch(sketchOf(us(false)), sketchOf(us(true)), 500)).toEqual(expected);
      })
    );
  });
});
