import { describe, expect, it } from 'vitest';
import { distributionsOf, histogramQuantile, merged, upperBound, type Distribution } from './histograms';
import type { HistogramPoint, Layout } from './points';

const exponential = (
  scale: number,
  low: number,
  counts: number[],
  more: Partial<Distribution> = {}
): Distribution => ({
  count: counts.reduce((sum, n) => sum + n, 0),
  sum: NaN,
  layout: { kind: 'exponential', scale, zeroThreshold: 0 },
  positive: { low, counts: Float64Array.from(counts) },
  negative: { low: 0, counts: new Float64Array() },
  zero: 0,
  ...more
});
const filled = ({ positive: { low, counts } }: Distribution): [number, number][] =>
  [...counts].map((count, i): [number, number] => [low + i, count]).filter(([, count]) => count > 0);

describe('exponential histograms', () => {
  it('have bounds as the specification lists them', () => {
    // OpenTelemetry metrics data model, table "Exponential scale": the bases of scales 10, 4, 1, 0, −1 and −4.
    const bases = [
      [10, 1.00068],
      [4, 1.04427],
      [1, 1.41421],
      [0, 2],
      [-1, 4],
      [-4, 65_536]
    ];
    for (const [scale, base] of bases) expect(upperBound(scale, 0)).toBeCloseTo(base, 4);
    // "At scale 0 … the bucket [index] −1 covers (1/2, 1]" (same place, table of scale 0).
    expect([upperBound(0, -2), upperBound(0, -1), upperBound(0, 0)]).toEqual([0.5, 1, 2]);
  });

  it('are merged by the coarser scale, neighbours becoming one', () => {
    const both = merged(exponential(3, -3, [1, 2, 4, 8, 16, 32, 64, 128]), exponential(1, 0, [1000]))!;
    expect(both.layout).toMatchObject({ scale: 1 });
    // By hand: −3 … 4 shifted right by two are −1 −1 −1 0 0 0 0 1.
    expect(filled(both)).toEqual([
      [-1, 7],
      [0, 1000 + 120],
      [1, 128]
    ]);
  });

  it('whose values lie far apart become coarse instead of large', () => {
    const both = merged(exponential(20, -1_000_000_000, [5]), exponential(20, 1_000_000_000, [7]))!;
    expect(both.count).toBe(12);
    expect(both.positive.counts.length).toBeLessThan(5000);
    expect(filled(both).map(([, count]) => count)).toEqual([5, 7]);
  });

  it('with a wider threshold of zero count what lies below it as zero', () => {
    const wide = exponential(0, 3, [1], {
      layout: { kind: 'exponential', scale: 0, zeroThreshold: 2 },
      zero: 4,
      count: 5
    });
    const both = merged(exponential(0, -2, [1, 1, 1, 1]), wide)!;
    // (1/4, 1/2], (1/2, 1], (1, 2] end at two or below; (2, 4] does not.
    expect([both.zero, filled(both)]).toEqual([
      7,
      [
        [1, 1],
        [3, 1]
      ]
    ]);
  });

  it('give quantiles of either sign', () => {
    const of = exponential(0, 0, [0, 2], {
      count: 5,
      zero: 1,
      negative: { low: 1, counts: Float64Array.of(2) }
    });
    expect(histogramQuantile(of, 0.1)).toMatchObject({ low: -4, high: -2 });
    expect(histogramQuantile(of, 0.5)).toMatchObject({ value: 0 });
    expect(histogramQuantile(of, 0.9)).toMatchObject({ low: 2, high: 4, value: (2 * 2 * 2) / 3 });
    expect(histogramQuantile(exponential(0, 0, []), 0.5)).toBeNull();
  });
});

describe('explicit bounds', () => {
  const layout: Layout = { kind: 'explicit', bounds: [1, 2] };
  const point = (atMs: number, counts: number[], more: Partial<HistogramPoint> = {}): HistogramPoint => ({
    atMs,
    startMs: 1000,
    count: counts.reduce((sum, n) => sum + n, 0),
    sum: 0,
    min: NaN,
    max: NaN,
    layout,
    positive: { low: 0, counts: Float64Array.from(counts) },
    negative: { low: 0, counts: new Float64Array() },
    zero: 0,
    ...more
  });

  it('that change begin anew; nothing is merged that cannot be', () => {
    const other: Layout = { kind: 'explicit', bounds: [1, 3] };
    const [, second, third] = distributionsOf(
      [point(2000, [1, 0, 0]), point(3000, [1, 4, 0]), point(4000, [2, 4, 1], { layout: other })],
      false
    );
    expect([second.count, third.count]).toEqual([4, 7]);
    expect(merged(second, third)).toBeNull();
  });

  it('of a counter that was set back count from nothing', () => {
    const came = distributionsOf(
      [point(2000, [5, 5, 5]), point(3000, [1, 0, 0]), point(4000, [1, 2, 0])],
      false
    );
    expect(came.map(({ count }) => count)).toEqual([15, 1, 2]);
  });

  it('say only that a quantile is over the last of them', () => {
    const [of] = distributionsOf([point(2000, [0, 0, 3])], false);
    expect(histogramQuantile(of, 0.5)).toEqual({ value: 2, low: 2, high: Infinity });
  });
});
