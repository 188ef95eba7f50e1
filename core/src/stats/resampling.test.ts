import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { LogNormalSeries } from '../testing/series';
import { dependenceOf } from './autocorrelation';
import { resampleQuantiles } from './block-bootstrap';
import { Draws } from './draws';
import { holds, overlaps, percentileInterval } from './interval';
import { momentsOf } from './moments';
import { quantiles } from './percentile';
import { midRanks } from './ranks';

describe('the dependence of samples', () => {
  // Of an AR(1) process with φ the effective number is n·(1 − φ)/(1 + φ) (textbook of time series); ranks of a log-normal one correlate a little less than φ.
  it.each([
    [0, 1],
    [0.5, 1 / 3],
    [0.8, 1 / 9]
  ])('with φ = %d leaves a share of %d of the samples', (phi, share) => {
    const { effective } = dependenceOf(new LogNormalSeries(3, phi).take(20_000));
    expect(effective / 20_000 / share).toBeGreaterThan(0.85);
    expect(effective / 20_000 / share).toBeLessThan(1.25);
  });
  it('asks for blocks of at least the third root, and longer ones where samples hang together', () => {
    const length = (phi: number): number => dependenceOf(new LogNormalSeries(3, phi).take(8000)).blockLength;
    expect(length(0)).toBeGreaterThanOrEqual(20);
    expect(length(0.5)).toBeGreaterThan(length(0));
    expect(length(0.9)).toBeGreaterThan(length(0.5));
    expect(dependenceOf([])).toEqual({ blockLength: 1, stretch: 1, effective: 1 });
    expect(dependenceOf(new Float64Array(27).fill(5))).toEqual({ blockLength: 3, stretch: 1, effective: 27 });
  });
});

describe('block resamples', () => {
  // Outside check: the same blocks drawn by the same numbers, copied and sorted.
  it('have the quantiles of the blocks that were drawn', () => {
    const values = fc.array(fc.integer({ min: 0, max: 50 }), { minLength: 1, maxLength: 700 });
    fc.assert(
      fc.property(values, fc.integer({ min: 1, max: 40 }), fc.nat(1e6), (series, blockLength, seed) => {
        const [median, p95] = resampleQuantiles(series, [0.5, 0.95], { blockLength, resamples: 3, seed });
        const draws = new Draws(seed);
        const length = Math.min(blockLength, series.length);
        for (let resample = 0; resample < 3; resample++) {
          const drawn: number[] = [];
          while (drawn.length < series.length) {
            const from = Math.floor(draws.share() * (series.length - length + 1));
            drawn.push(...series.slice(from, from + length));
          }
          const expected = quantiles(drawn.slice(0, series.length), [0.5, 0.95]);
          expect(median[resample]).toBeCloseTo(expected[0], 9);
          expect(p95[resample]).toBeCloseTo(expected[1], 9);
        }
      })
    );
  });
  it('say how far they are', () => {
    const seen: number[] = [];
    resampleQuantiles([1, 2, 3], [0.5], {
      blockLength: 1,
      resamples: 300,
      seed: 1,
      onProgress: (share) => seen.push(share)
    });
    expect(seen).toEqual([0, 100 / 300, 200 / 300]);
  });
});

describe('small helpers', () => {
  it('rank values, equal ones alike', () =>
    expect([...midRanks([30, 10, 20, 20])]).toEqual([4, 1, 2.5, 2.5]));
  it('leave the same out at both ends', () => {
    const interval = percentileInterval(
      Array.from({ length: 101 }, (_, i) => i),
      0.9
    );
    expect(interval.low).toBeCloseTo(5, 9);
    expect(interval.high).toBeCloseTo(95, 9);
    expect([holds(interval, 5.1), holds(interval, 4)]).toEqual([true, false]);
    expect([overlaps(interval, { low: 90, high: 99 }), overlaps(interval, { low: 96, high: 99 })]).toEqual([
      true,
      false
    ]);
  });
  it('give mean and deviation', () => {
    expect(momentsOf([2, 4, 4, 4, 5, 5, 7, 9]).mean).toBe(5);
    expect(momentsOf([2, 4, 4, 4, 5, 5, 7, 9]).deviation).toBeCloseTo(Math.sqrt(32 / 7), 12);
    expect(momentsOf([1]).deviation).toBeNaN();
  });
});
