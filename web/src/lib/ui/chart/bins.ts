import { axisTime } from '$lib/ui/kit/time';
import { placeMarkup, type Place } from './facts';
import { withDots, withGaps, type LineDatum, type LinePoint } from './gaps';
import type { ChartTheme } from './theme';

/** Bins of time that a chart draws, epoch milliseconds. */
export interface Bins<Point extends { at: number }> {
  /** Those with data, `at` their beginning. */
  series: readonly Point[];
  binMs: number;
  fromMs: number;
  toMs: number;
}

/** A time axis over bins, and a tooltip that says what is known of the bin under the pointer. */
export function overBins<Point extends { at: number }>(
  { series, binMs, fromMs, toMs }: Bins<Point>,
  places: readonly Place[],
  { time, tooltip }: ChartTheme
): { tooltip: object; xAxis: { axisLabel: object } & Record<string, unknown> } {
  const first = Math.floor(fromMs / binMs) * binMs;
  return {
    tooltip: {
      ...tooltip,
      trigger: 'axis',
      formatter: ([{ value }]: { value: [number] }[]) => {
        const place = series.findIndex(({ at }) => value[0] >= at && value[0] < at + binMs);
        return place < 0 ? '' : placeMarkup(places[place]);
      }
    },
    xAxis: {
      ...time,
      min: first,
      max: toMs,
      axisLabel: { ...time.axisLabel, formatter: (at: number) => axisTime(at, toMs - first) }
    }
  };
}

/** A line through the middles of bins. A missing bin is a gap; one between two gaps is a dot. */
export const throughMiddles = <Point extends { at: number }>(
  { series, binMs }: Bins<Point>,
  value: (point: Point) => number
): LineDatum[] =>
  withDots(withGaps(series, binMs, value).map(([at, figure]): LinePoint => [at + binMs / 2, figure]));

/** Bars in the middles of bins. Every bin takes part, also one without data: a bar is as wide as the bins are apart. */
export function barsInMiddles<Point extends { at: number }>(
  { series, binMs, fromMs, toMs }: Bins<Point>,
  value: (point: Point) => number | null
): LinePoint[] {
  const known = new Map(series.map((point) => [point.at, point]));
  const first = series.length > 0 ? series[0].at : fromMs;
  const begin = first - Math.floor((first - fromMs) / binMs) * binMs;
  const count = Math.max(1, Math.ceil((toMs - begin) / binMs));
  return Array.from({ length: count }, (_, i) => {
    const at = begin + i * binMs;
    const point = known.get(at);
    return [at + binMs / 2, point ? value(point) : null];
  });
}
