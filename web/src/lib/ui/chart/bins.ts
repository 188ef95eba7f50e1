import { axisTime } from '$lib/ui/kit/time';
import { placeMarkup, type Place } from './facts';
import { withGaps, type LinePoint } from './gaps';
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

/** A line through the middles of bins. One missing bin is passed over, more are a gap. */
export const throughMiddles = <Point extends { at: number }>(
  { series, binMs }: Bins<Point>,
  value: (point: Point) => number
): LinePoint[] => withGaps(series, binMs * 2, value).map(([at, figure]) => [at + binMs / 2, figure]);
