import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { distributionsOf, mediansOverTime } from './pictures';

const durations = fc.array(fc.integer({ min: 0, max: 1e12 }), { minLength: 1, maxLength: 200 });

describe('two distributions on one axis', () => {
  it('count every request once, up to the whole, between the fastest and the slowest', () => {
    fc.assert(
      fc.property(durations, durations, (a, b) => {
        fc.pre([...a, ...b].some((ns) => ns > 0));
        const found = distributionsOf({ before: Float64Array.from(a), after: Float64Array.from(b) })!;
        for (const side of ['before', 'after'] as const) {
          expect(found.shares[side].reduce((sum, share) => sum + share, 0)).toBeCloseTo(1, 9);
          expect(found.upTo[side].at(-1)).toBeCloseTo(1, 9);
        }
        expect(found.edgesNs.at(-1)).toBeGreaterThanOrEqual(Math.max(...a, ...b) * 0.999999);
      })
    );
  });

  it('have the share of durations up to the end of each class, as the definition of the empirical distribution function says', () => {
    const before = Float64Array.from({ length: 50 }, (_, i) => 1e6 * (i + 1));
    const { edgesNs, upTo } = distributionsOf({ before, after: before })!;
    upTo.before.forEach((share, i) => {
      const counted = before.filter((ns) => ns < edgesNs[i + 1]).length / before.length;
      expect(share).toBeCloseTo(counted, 9);
    });
  });

  it('are none of nothing', () => {
    expect(distributionsOf({ before: new Float64Array(), after: new Float64Array([0]) })).toBeNull();
  });
});

it('tells the median of each stretch of time, and leaves empty ones out', () => {
  expect(mediansOverTime([0, 1, 2, 95], [10, 20, 60, 7], 100, 10)).toEqual([
    { atS: 5, medianNs: 20, requests: 3 },
    { atS: 95, medianNs: 7, requests: 1 }
  ]);
});
