import { isRate, meanIn } from '@tromix/core/counters/bins';
import {
  distributionsInBins,
  oftenLine,
  quantileLine,
  type Grid
} from '@tromix/core/counters/histogram-lines';
import type { TimedDistribution } from '@tromix/core/counters/histograms';
import type { SeriesKind } from '@tromix/core/counters/series';
import type { Line } from '@tromix/core/counters/strips';
import { select } from '../../db/reader';
import { binsOf, distributionsIn, seriesOf, type MsWindow, type StoredSeries } from '../counters';
import { stepFor } from './hosts';

/** A metric that a host, or what runs on it, tells of. */
export interface CounterName {
  name: string;
  unit: string;
  kind: SeriesKind;
  series: number;
}

/** Names that are listed. */
const MOST_NAMES = 500;

/** Every metric of a host with a point since a moment. */
export const counterNames = (host: string, sinceMs: number): Promise<CounterName[]> =>
  select<CounterName>(
    `SELECT s.name AS name, s.unit AS unit, s.kind AS kind, count(*) AS series FROM counter_series s JOIN counter_sources o ON o.id = s.source_id
      WHERE o.host = ? AND s.last_ms >= ? GROUP BY s.name, s.unit, s.kind ORDER BY s.name LIMIT ${MOST_NAMES}`,
    [host, sinceMs]
  );

/** A line of a metric: one of its series, or a figure of a histogram. */
export interface CounterLine {
  /** What tells it apart from the others: attributes, and who sends it. */
  label: string;
  unit: string;
  /** An amount a second. */
  isRate: boolean;
  line: Line;
}

export interface CounterLines {
  fromMs: number;
  stepMs: number;
  lines: CounterLine[];
  /** Series that are not drawn: those with the smallest values. */
  left: number;
}

/** Lines that are drawn. */
const MOST_LINES = 40;

/** The series of one metric of a host over a time. Of a histogram how often it was measured, its median and its 95th percentile. */
export async function counterLines(host: string, name: string, window: MsWindow): Promise<CounterLines> {
  const stepMs = stepFor(window);
  const series = await seriesOf({ names: [name], hosts: [host], sinceMs: window.fromMs });
  const labelOf = labels(series);
  const [bins, distributions] = await Promise.all([
    binsOf(series, window, stepMs),
    distributionsIn(series, window, stepMs)
  ]);
  const fromMs = Math.floor(window.fromMs / stepMs) * stepMs;
  const length = Math.ceil(window.toMs / stepMs) - fromMs / stepMs;
  const lines = series.flatMap((one): CounterLine[] => {
    const of = bins.get(one.id);
    if (of)
      return [
        {
          label: labelOf(one),
          unit: one.unit,
          isRate: isRate(one),
          line: [...of.weight.keys()].map((bin) => meanIn(of, bin))
        }
      ];
    return histogramLines(labelOf(one), one.unit, distributions.get(one.id) ?? [], {
      fromMs,
      stepMs,
      length
    });
  });
  const greatest = ({ line }: CounterLine): number =>
    Math.max(-Infinity, ...line.filter((value) => value !== null));
  const sorted = lines
    .filter((one) => greatest(one) > -Infinity)
    .sort((a, b) => (a.unit === b.unit ? greatest(b) - greatest(a) : 0));
  return {
    fromMs,
    stepMs,
    lines: sorted.slice(0, MOST_LINES),
    left: Math.max(0, sorted.length - MOST_LINES)
  };
}

/** Of a histogram its 95th percentile, its median, and how often it was measured. */
function histogramLines(
  label: string,
  unit: string,
  parts: readonly TimedDistribution[],
  grid: Grid
): CounterLine[] {
  const inBin = distributionsInBins(parts, grid);
  return [
    { label: `${label} · p95`, unit, isRate: false, line: quantileLine(inBin, 0.95) },
    { label: `${label} · median`, unit, isRate: false, line: quantileLine(inBin, 0.5) },
    { label: `${label} · how often`, unit: '', isRate: true, line: oftenLine(inBin, grid.stepMs) }
  ];
}

/** What tells series apart: the attributes in which they differ, and the process where there are several. */
function labels(series: readonly StoredSeries[]): (of: StoredSeries) => string {
  const values = new Map<string, Set<string>>();
  for (const { attributes } of series)
    for (const [key, value] of attributes) {
      const known = values.get(key) ?? new Set<string>();
      values.set(key, known.add(JSON.stringify(value)));
    }
  const differ = [...values].filter(([, of]) => of.size > 1).map(([key]) => key);
  const sources = new Set(series.map(({ source }) => source.id));
  return ({ attributes, source, name }) => {
    const told = differ.flatMap((key) => (attributes.has(key) ? [String(attributes.get(key))] : []));
    const executable = source.attributes.get('process.executable.name');
    if (sources.size > 1)
      told.push(
        [executable ?? source.service, source.pid > 0 ? `pid ${source.pid}` : ''].filter(Boolean).join(' ')
      );
    return told.filter(Boolean).join(' · ') || name;
  };
}
