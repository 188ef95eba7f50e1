import { columnsOf, type NumberColumns } from '@tromix/core/counters/chunk';
import type { HistogramPoint, NumberPoint, PointTimes } from '@tromix/core/counters/points';
import type { SeriesPoints } from './block';

// Points of one series from several blocks and batches as one list.

export const lengthOf = (points: SeriesPoints): number =>
  points.kind === 'numbers' ? points.columns.atMs.length : points.points.length;

/** When point i was read, epoch milliseconds. */
export const momentOf = (points: SeriesPoints, i: number): number =>
  points.kind === 'numbers' ? points.columns.atMs[i] : points.points[i].atMs;

/** Points that came, in order, each moment once. */
export const fromNumbers = (points: readonly NumberPoint[]): SeriesPoints => ({
  kind: 'numbers',
  columns: columnsOf(inOrder(points))
});
export const fromHistograms = (points: readonly HistogramPoint[]): SeriesPoints => ({
  kind: 'histograms',
  points: inOrder(points)
});

/** Ascending in time; of points of one moment and one start the one that came last counts. */
function inOrder<Point extends PointTimes>(points: readonly Point[]): Point[] {
  // Sorting keeps the order of equals.
  const sorted = points.toSorted((a, b) => a.atMs - b.atMs || a.startMs - b.startMs);
  return sorted.filter((point, i) => {
    const next = sorted[i + 1];
    return !next || next.atMs !== point.atMs || next.startMs !== point.startMs;
  });
}

/** Both together. Of a moment that both have, the second counts. */
export function joined(a: SeriesPoints, b: SeriesPoints): SeriesPoints {
  if (lengthOf(a) === 0 || a.kind !== b.kind) return b;
  if (lengthOf(b) === 0) return a;
  const follows = momentOf(b, 0) > momentOf(a, lengthOf(a) - 1);
  if (a.kind === 'histograms' && b.kind === 'histograms')
    return follows
      ? { kind: 'histograms', points: [...a.points, ...b.points] }
      : fromHistograms([...a.points, ...b.points]);
  if (a.kind !== 'numbers' || b.kind !== 'numbers') return b;
  return follows
    ? { kind: 'numbers', columns: appended(a.columns, b.columns) }
    : fromNumbers([...numbersOf(a.columns), ...numbersOf(b.columns)]);
}

/** Points i to j, without j. */
export function cut(points: SeriesPoints, from: number, to: number): SeriesPoints {
  if (points.kind === 'histograms') return { kind: 'histograms', points: points.points.slice(from, to) };
  const { atMs, startMs, values } = points.columns;
  return {
    kind: 'numbers',
    columns: {
      atMs: atMs.slice(from, to),
      startMs: startMs.slice(from, to),
      values: values.slice(from, to)
    }
  };
}

function appended(a: NumberColumns, b: NumberColumns): NumberColumns {
  const append = (first: Float64Array, second: Float64Array): Float64Array => {
    const both = new Float64Array(first.length + second.length);
    both.set(first);
    both.set(second, first.length);
    return both;
  };
  return {
    atMs: append(a.atMs, b.atMs),
    startMs: append(a.startMs, b.startMs),
    values: append(a.values, b.values)
  };
}

const numbersOf = ({ atMs, startMs, values }: NumberColumns): NumberPoint[] =>
  Array.from(atMs, (at, i) => ({ atMs: at, startMs: startMs[i], value: values[i] }));
