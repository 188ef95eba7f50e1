import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { FULL_SCORE, loadScore, ratingOf, VITAL_FACTS, vitalScore, VITALS, worthOf } from './vitals';

describe('ratings', () => {
  // Outside check: the thresholds that web.dev publishes for each vital (“Web Vitals”, read in 2024; from memory here).
  it.each([
    ['lcp', 2500, 'good'],
    ['lcp', 2501, 'middling'],
    ['lcp', 4000, 'middling'],
    ['lcp', 4001, 'poor'],
    ['inp', 200, 'good'],
    ['inp', 500, 'middling'],
    ['inp', 501, 'poor'],
    ['cls', 0.1, 'good'],
    ['cls', 0.25, 'middling'],
    ['cls', 0.26, 'poor'],
    ['fcp', 1800, 'good'],
    ['fcp', 3001, 'poor'],
    ['ttfb', 800, 'good'],
    ['ttfb', 1801, 'poor']
  ] as const)('%s of %d is %s', (vital, value, rating) => expect(ratingOf(vital, value)).toBe(rating));
});

describe('the score of a load', () => {
  it('is 100 where all is good, 0 where all is poor, and halfway between the limits 50', () => {
    const at = (part: number) =>
      Object.fromEntries(
        VITALS.map((vital) => {
          const [good, poor] = VITAL_FACTS[vital].limits;
          return [vital, good + part * (poor - good)];
        })
      );
    expect(loadScore(at(0))).toBe(100);
    expect(loadScore(at(1))).toBeCloseTo(0, 9);
    expect(loadScore(at(0.5))).toBeCloseTo(50, 9);
  });

  it('counts the largest paint and the answer to input twice, and only what was measured', () => {
    // (1 + 2 × 0) / 3 and (2 × 0 + 2 × 1) / 4.
    expect(loadScore({ ttfb: 100, lcp: 9000 })).toBeCloseTo(100 / 3, 9);
    expect(loadScore({ lcp: 9000, inp: 10 })).toBeCloseTo(50, 9);
    expect(loadScore({})).toBeNull();
  });

  it('never leaves 0 to 100, and never rises with a longer wait', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...VITALS),
        fc.double({ min: 0, max: 1e5, noNaN: true }),
        fc.double({ min: 0, max: 1e5, noNaN: true }),
        (vital, a, b) => {
          const [less, more] = [Math.min(a, b), Math.max(a, b)];
          const scores = [vitalScore(vital, less), vitalScore(vital, more)];
          expect(scores[0]).toBeGreaterThanOrEqual(scores[1]);
          expect(Math.min(...scores)).toBeGreaterThanOrEqual(0);
          expect(Math.max(...scores)).toBeLessThanOrEqual(1);
        }
      )
    );
  });
});

describe('the worth of a page', () => {
  it('is what the mean over all loads would gain: of all pages together what is missing to 100', () => {
    const pages = [
      { loads: 30, scoreSum: 30 * 40 },
      { loads: 70, scoreSum: 70 * 90 }
    ];
    expect(worthOf(pages[0], 100)).toBeCloseTo(18, 9);
    expect(worthOf(pages[1], 100)).toBeCloseTo(7, 9);
    const mean = (30 * 40 + 70 * 90) / 100;
    expect(pages.reduce((sum, page) => sum + worthOf(page, 100), 0)).toBeCloseTo(FULL_SCORE - mean, 9);
    expect(worthOf({ loads: 0, scoreSum: 0 }, 0)).toBe(0);
  });
});
