import { quantile } from 'd3-array';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apdexFromSketch, apdexRating, apdexScore, apdexZone } from './apdex';
import { median, quantiles } from './percentile';
import {
  addBucket,
  bucketOf,
  emptySketch,
  mergeInto,
  pairsOf,
  readSketch,
  SKETCH_ERROR,
  sketchQuantiles,
  writeSketch,
  type Sketch
} from './sketch';

const numbers = fc.array(fc.double({ min: 0, max: 1e12, noNaN: true }), { minLength: 1, maxLength: 200 });

describe('quantiles', () => {
  // Outside check: d3-array's `quantile`, which documents the same type 7 definition.
  it('agree with d3-array', () => {
    fc.assert(
      fc.property(numbers, fc.double({ min: 0, max: 1, noNaN: true }), (values, p) => {
        const expected = quantile(values, p)!;
        expect(Math.abs(quantiles(values, [p])[0] - expected)).toBeLessThanOrEqual(
          Math.abs(expected) * 1e-12 + 1e-9
        );
      })
    );
  });

  it('are NaN for no values', () => expect(median([])).toBeNaN());
});

describe('Apdex', () => {
  // Source: the worked example of the Apdex technical specification 1.1, from memory: 100 samples with T = 3 s,
  // 60 satisfied, 30 tolerating, 10 frustrated give (60 + 30 / 2) / 100 = 0.75.
  it('gives the worked example', () =>
    expect(apdexScore({ satisfied: 60, tolerating: 30, frustrated: 10 })).toBe(0.75));

  it('divides at T and 4T, both inclusive, and counts failures as frustrated', () => {
    expect([500, 501, 2000, 2001].map((ms) => apdexZone(ms, 500, false))).toEqual([
      'satisfied',
      'tolerating',
      'tolerating',
      'frustrated'
    ]);
    expect(apdexZone(1, 500, true)).toBe('frustrated');
  });

  // Source: the specification's table of ratings, from memory.
  it.each([
    [1, 'Excellent'],
    [0.94, 'Excellent'],
    [0.9349, 'Good'],
    [0.85, 'Good'],
    [0.7, 'Fair'],
    [0.5, 'Poor'],
    [0.49, 'Unacceptable']
  ])('rates %d as %s', (score, rating) => expect(apdexRating(score)).toBe(rating));
});

describe('sketch', () => {
  const sketchOf = (values: number[]): Sketch => {
    const sketch = emptySketch();
    for (const value of values) addBucket(sketch, bucketOf(value), 1);
    return sketch;
  };
  const durations = fc.array(fc.integer({ min: 1, max: 1e9 }), { minLength: 1, maxLength: 300 });

  // Outside check: d3-array's `quantile` (type 7).
  it('is off by at most 1 % of the quantile', () => {
    fc.assert(
      fc.property(durations, fc.double({ min: 0, max: 1, noNaN: true }), (values, p) => {
        const exact = quantile(values, p)!;
        expect(Math.abs(sketchQuantiles(sketchOf(values), [p])[0] - exact)).toBeLessThanOrEqual(
          exact * SKETCH_ERROR + 1e-6
        );
      }),
      { numRuns: 500 }
    );
    // 10, 20 and 1,000 ms: the 95th percentile lies between the last two.
    expect(sketchQuantiles(sketchOf([10_000, 20_000, 1_000_000]), [0.95])[0] / 1000).toBeCloseTo(902, -1);
  });

  it('knows the zones of the Apdex at T and 4T', () => {
    for (const t of [1, 25, 100, 250, 500, 1000, 3000, 4321]) {
      const all = sketchOf([t * 1000, 4 * t * 1000, 4.1 * t * 1000]);
      expect(apdexFromSketch(all, emptySketch(), t)).toEqual({ satisfied: 1, tolerating: 1, frustrated: 1 });
    }
  });

  it('merges, takes back exactly, and survives its text form', () => {
    fc.assert(
      fc.property(durations, durations, (a, b) => {
        const both = sketchOf(a);
        mergeInto(both, sketchOf(b));
        expect([...pairsOf(readSketch(writeSketch(both)))]).toEqual([...pairsOf(sketchOf([...a, ...b]))]);
        for (const value of b) addBucket(both, bucketOf(value), -1);
        expect([...pairsOf(both)]).toEqual([...pairsOf(sketchOf(a))]);
      })
    );
  });
});
