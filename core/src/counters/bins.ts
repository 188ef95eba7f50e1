import type { NumberColumns } from './chunk';
import { increasesOf } from './increases';
import type { Series } from './series';

/**
 * Values of a series over time, in bins of equal length. Of a gauge a bin holds its values, each of weight 1. Of a sum that only grows it
 * holds rates a second, each weighted by its seconds: the weight is how much of the bin is known, the sum the increase.
 */
export interface Bins {
  /** Start of the first bin, epoch milliseconds; a whole multiple of the length. */
  fromMs: number;
  stepMs: number;
  weight: Float64Array;
  sum: Float64Array;
  /** The greatest; NaN where the weight is 0. */
  max: Float64Array;
}

/** Bins without anything in them, that cover a time. */
export function emptyBins(fromMs: number, toMs: number, stepMs: number): Bins {
  const first = Math.floor(fromMs / stepMs);
  const length = Math.max(0, Math.ceil(toMs / stepMs) - first);
  return {
    fromMs: first * stepMs,
    stepMs,
    weight: new Float64Array(length),
    sum: new Float64Array(length),
    max: new Float64Array(length).fill(NaN)
  };
}

/** Whether a series is looked at as a rate: what it has added up to since some start says little. */
export const isRate = ({
  kind,
  isMonotonic,
  isDelta
}: Pick<Series, 'kind' | 'isMonotonic' | 'isDelta'>): boolean => kind === 'sum' && (isMonotonic || isDelta);

/** Puts points of a series into bins. @param columns ascending in time; for a rate with the point before, where there is one */
export function addPoints(
  bins: Bins,
  columns: NumberColumns,
  series: Pick<Series, 'kind' | 'isMonotonic' | 'isDelta'>
): void {
  if (isRate(series)) {
    for (const { fromMs, toMs, by } of increasesOf(columns, series.isDelta))
      addRate(bins, fromMs, toMs, (by / (toMs - fromMs)) * 1000);
    return;
  }
  const { atMs, values } = columns;
  for (let i = 0; i < atMs.length; i++)
    addTo(bins, Math.floor((atMs[i] - bins.fromMs) / bins.stepMs), 1, values[i]);
}

/** Adds a rate that held over a stretch of time, epoch milliseconds. */
export function addRate(bins: Bins, fromMs: number, toMs: number, rate: number): void {
  const { stepMs } = bins;
  const first = Math.max(0, Math.floor((fromMs - bins.fromMs) / stepMs));
  const end = Math.min(bins.weight.length, Math.ceil((toMs - bins.fromMs) / stepMs));
  for (let bin = first; bin < end; bin++) {
    const begin = bins.fromMs + bin * stepMs;
    addTo(bins, bin, (Math.min(toMs, begin + stepMs) - Math.max(fromMs, begin)) / 1000, rate);
  }
}

function addTo(bins: Bins, bin: number, weight: number, value: number): void {
  if (bin < 0 || bin >= bins.weight.length) return;
  addBin(bins, bin, weight, value * weight, value);
}

/** Adds what another bin holds. */
export function addBin(bins: Bins, bin: number, weight: number, sum: number, max: number): void {
  if (weight <= 0) return;
  bins.weight[bin] += weight;
  bins.sum[bin] += sum;
  if (!(max <= bins.max[bin])) bins.max[bin] = max;
}

/** The mean of a bin; null where nothing is known of it. */
export const meanIn = ({ weight, sum }: Bins, bin: number): number | null =>
  weight[bin] > 0 ? sum[bin] / weight[bin] : null;
