import { describe, expect, it } from 'vitest';
import { decodeMetricsJson } from './metrics';
import type { MetricBatch } from './metric-points';

const AT = '1790000000000000000';
const batch = (...metrics: object[]): MetricBatch =>
  decodeMetricsJson(JSON.stringify({ resourceMetrics: [{ scopeMetrics: [{ metrics }] }] }));
const point = (more: object): object => ({ timeUnixNano: AT, ...more });
const refused = ({ rejected }: MetricBatch): [string, number][] =>
  rejected.map(({ reason, count }) => [reason, count]);
const explicit = (more: object): object => ({
  name: 'took',
  histogram: { aggregationTemporality: 2, dataPoints: [point(more)] }
});
const exponential = (more: object): object => ({
  name: 'depth',
  exponentialHistogram: { aggregationTemporality: 2, dataPoints: [point(more)] }
});

describe('points that cannot be', () => {
  it('are numbers that are none, of no time, or whose growth cannot be told', () => {
    const values = [
      { asDouble: 'NaN' },
      { asDouble: '-Infinity' },
      {},
      { asInt: 'many' },
      { asDouble: 1e308 }
    ].map(point);
    expect(refused(batch({ name: 'level', gauge: { dataPoints: values } }))).toEqual([
      ['its value is not a finite number of a magnitude up to 10^30', 5]
    ]);
    const timeless = [{ asDouble: 1 }, { asDouble: 1, timeUnixNano: '9999999999999999999' }];
    expect(refused(batch({ name: 'level', gauge: { dataPoints: timeless } }))).toEqual([
      ['its time is outside the years 1970 to 2200', 2]
    ]);
    const untold = { name: 'calls', sum: { isMonotonic: true, dataPoints: [point({ asInt: '5' })] } };
    expect(refused(batch(untold))).toEqual([['its temporality is not told', 1]]);
  });

  it('are histograms whose buckets do not fit', () => {
    for (const wrong of [
      { count: 5, explicitBounds: [1, 2], bucketCounts: [1, 2] },
      { count: 5, explicitBounds: [2, 1], bucketCounts: [1, 2, 2] },
      { count: 9, explicitBounds: [1], bucketCounts: [1, 2] },
      { count: 1, explicitBounds: [1], bucketCounts: [2, -1] },
      {
        count: 2,
        explicitBounds: Array(5000)
          .fill(0)
          .map((_, i) => i),
        bucketCounts: [2, ...Array(5000).fill(0)]
      }
    ])
      expect(batch(explicit(wrong)).histograms).toEqual([]);
    for (const wrong of [
      { count: 1, scale: 99, positive: { offset: 0, bucketCounts: [1] } },
      // 2^(10^6) is no double.
      { count: 1, scale: 0, positive: { offset: 1_000_000, bucketCounts: [1] } },
      { count: 3, scale: 0, zeroCount: 1, positive: { offset: 0, bucketCounts: [1] } }
    ])
      expect(batch(exponential(wrong)).histograms).toEqual([]);
  });
});

describe('points that say less', () => {
  it('are taken for what they say: a histogram without buckets, a gap, a sum that may fall', () => {
    const [{ count, sum, min }] = batch(explicit({ count: '7', sum: 3.5 })).histograms;
    expect([count, sum, min]).toEqual([7, 3.5, NaN]);
    expect(batch({ name: 'level', gauge: { dataPoints: [point({ flags: 1 })] } })).toEqual({
      numbers: [],
      histograms: [],
      rejected: []
    });
    const open = { name: 'open', sum: { dataPoints: [point({ asInt: '3' })] } };
    expect(batch(open).numbers.map(({ value }) => value)).toEqual([3]);
  });

  it('of a summary are its count, its sum, and a gauge for each quantile', () => {
    const quantileValues = [
      { quantile: 0.5, value: 20 },
      { quantile: 0.99, value: 'NaN' }
    ];
    const { numbers } = batch({
      name: 'took',
      unit: 'ms',
      summary: { dataPoints: [point({ count: '4', sum: 80, quantileValues })] }
    });
    expect(
      numbers.map(({ series, value }) => [series.name, series.kind, series.attributes.get('quantile'), value])
    ).toEqual([
      ['took.count', 'sum', undefined, 4],
      ['took.sum', 'sum', undefined, 80],
      ['took', 'gauge', 0.5, 20]
    ]);
  });
});
