import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { addPoints, emptyBins } from '../core/src/counters/bins';
import { columnsOf } from '../core/src/counters/chunk';
import {
  distributionsOf,
  histogramQuantile,
  merged,
  type Distribution
} from '../core/src/counters/histograms';
import { increasesOf } from '../core/src/counters/increases';
import { seriesKey, type Series } from '../core/src/counters/series';
import type { MetricBatch, OfSeries } from '../core/src/formats/otlp/metric-points';
import { decodeMetricsJson, decodeMetricsProtobuf } from '../core/src/formats/otlp/metrics';
import { quantileSorted } from '../core/src/stats/percentile';

/**
 * What the official OpenTelemetry SDK for Node.js sends of metrics (`counters/record.mjs`). What was counted is known from the program: 1 to 60, then
 * 1 to 120.
 */
const file = (name: string): Buffer => readFileSync(new URL(`counters/${name}`, import.meta.url));
const read = (name: string): MetricBatch => decodeMetricsProtobuf(file(`${name}.pb`));
const both = (kind: string): MetricBatch[] => [read(`${kind}-1`), read(`${kind}-2`)];
const of = <Point>(points: readonly OfSeries<Point>[], name: string, gauge?: string): OfSeries<Point>[] =>
  points.filter(({ series }) => series.name === name && (!gauge || series.attributes.get('gauge') === gauge));
const upTo = (n: number): number[] => Array.from({ length: n }, (_, i) => i + 1);
const sum = (list: readonly number[]): number => list.reduce((all, one) => all + one, 0);

describe('metrics of the SDK', () => {
  it.each(['cumulative-1', 'cumulative-2', 'delta-1', 'delta-2'])(
    'are read alike from either encoding: %s',
    (name) => {
      const named = ({ numbers, histograms, rejected }: MetricBatch): unknown => [
        [...numbers, ...histograms].map(({ series, ...point }) => [seriesKey(0, series), point]),
        rejected
      ];
      expect(named(decodeMetricsJson(file(`${name}.json`).toString()))).toEqual(named(read(name)));
    }
  );

  it('are of one series object from batch to batch', () => {
    const [first, second] = both('cumulative').map(
      ({ numbers }) => of(numbers, 'tides.calls', 'north')[0].series
    );
    expect(first).toBe(second);
    expect(first).toMatchObject({ unit: '{call}', kind: 'sum', isMonotonic: true, isDelta: false });
    expect(first.resource).toMatchObject({ service: 'tides', host: 'quay-3', release: '7.3', pid: 4711 });
  });

  it.each(['cumulative', 'delta'])('tell by how much sums grew: %s', (kind) => {
    for (const [gauge, odd] of [
      ['north', 1],
      ['south', 0]
    ] as const) {
      const points = both(kind).flatMap(({ numbers }) => of(numbers, 'tides.calls', gauge));
      const grown = increasesOf(columnsOf(points), kind === 'delta').map(({ by }) => by);
      const counted = (n: number): number => sum(upTo(n).filter((i) => i % 2 === odd));
      expect(grown).toEqual([counted(60), counted(120)]);
    }
  });

  it('tell where what rises and falls stands', () => {
    const points = both('cumulative').flatMap(({ numbers }) => of(numbers, 'tides.open'));
    expect(points.map(({ value }) => value)).toEqual([20, 60]);
    const levels = both('delta').flatMap(({ numbers }) => of(numbers, 'tides.level'));
    expect(levels.map(({ value }) => value)).toEqual([60.25, 120.25]);
    const bins = emptyBins(levels[0].atMs, levels[1].atMs + 1, 60_000);
    addPoints(bins, columnsOf(levels), levels[0].series);
    expect([sum([...bins.weight]), sum([...bins.sum]), Math.max(...bins.max)]).toEqual([2, 180.5, 120.25]);
  });

  describe.each(['cumulative', 'delta'])('of histograms, %s,', (kind) => {
    const came = (name: string): Distribution[] =>
      distributionsOf(
        both(kind).flatMap(({ histograms }) => of(histograms, name)),
        kind === 'delta'
      );

    it('tell what came between two points, by explicit bounds', () => {
      const [first, second] = came('tides.took');
      expect([first.count, first.sum, [...first.positive.counts]]).toEqual([60, 1830, [5, 5, 15, 25, 10, 0]]);
      expect([second.count, second.sum, [...second.positive.counts]]).toEqual([
        120,
        7260,
        [5, 5, 15, 25, 50, 20]
      ]);
      // By hand: the 30th of 60 is the fifth of the 25 that lie over 25 and up to 50.
      expect(histogramQuantile(first, 0.5)).toEqual({ value: 30, low: 25, high: 50 });
      expect(histogramQuantile(second, 0.95)).toEqual({ value: 100, low: 100, high: Infinity });
    });

    it('give quantiles by exponential buckets, within the error the format allows', () => {
      const parts = came('tides.depth');
      expect(parts.map(({ count, zero }) => [count, zero])).toEqual([
        [120, 60],
        [240, 120]
      ]);
      const all = merged(parts[0], parts[1])!;
      const values = [...upTo(60), ...upTo(120)].map((i) => i / 4);
      const exact = [...values.map(() => 0), ...values].sort((a, b) => a - b);
      const { scale } = all.layout as { scale: number };
      const base = 2 ** (2 ** -scale);
      for (const p of [0.55, 0.75, 0.9, 0.99]) {
        const told = histogramQuantile(all, p)!;
        const truth = quantileSorted(exact, p);
        expect(Math.abs(told.value / truth - 1)).toBeLessThanOrEqual((base - 1) / (base + 1) + 0.26 / truth);
        expect(told.low).toBeLessThanOrEqual(truth);
        expect(told.high).toBeGreaterThanOrEqual(truth - 0.26);
      }
      expect(histogramQuantile(all, 0.25)).toMatchObject({ value: 0 });
      // Every value by the specification's own formula: index = ceil(log_base(value)) − 1 (OpenTelemetry metrics data model, "Logarithm function").
      const expected = new Map<number, number>();
      for (const value of values) {
        const index = Math.ceil(Math.log2(value) * 2 ** scale) - 1;
        expected.set(index, (expected.get(index) ?? 0) + 1);
      }
      const counted = [...all.positive.counts]
        .map((count, i): [number, number] => [i + all.positive.low, count])
        .filter(([, count]) => count > 0);
      expect(new Map(counted)).toEqual(expected);
    });
  });

  it('of a host and of the runtime are all taken', () => {
    for (const [name, wanted] of [
      ['host-metrics', ['system.cpu.time', 'system.memory.usage', 'system.network.io', 'process.cpu.time']],
      ['node-runtime', ['nodejs.eventloop.utilization', 'v8js.memory.heap.used', 'v8js.gc.duration']]
    ] as const) {
      const { numbers, histograms, rejected } = read(name);
      const names = new Set([...numbers, ...histograms].map(({ series }: { series: Series }) => series.name));
      for (const one of wanted) expect(names).toContain(one);
      expect(rejected).toEqual([]);
    }
  });
});
