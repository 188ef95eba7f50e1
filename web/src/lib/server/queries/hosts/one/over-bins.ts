import { isRate, meanIn, type Bins } from '@tromix/core/counters/bins';
import type { Line } from '@tromix/core/counters/strips';
import type { StoredSeries } from '../../counters';

export type Bin = (series: StoredSeries) => Bins | undefined;

/** Bins that are looked at, and the seconds that rates are told of: a process that ran for a part of them used so much less of them. */
export interface Over {
  of: Bin;
  from: number;
  to: number;
  seconds: number;
}

/** The mean of a series over some bins: of a rate over all of their time, else over what is known; null where nothing is. */
function meanOver(series: StoredSeries, { of, from, to, seconds }: Over): number | null {
  const bins = of(series);
  if (!bins) return null;
  let weight = 0;
  let sum = 0;
  for (let i = from; i < Math.min(to, bins.weight.length); i++) {
    weight += bins.weight[i];
    sum += bins.sum[i];
  }
  if (weight === 0) return null;
  return isRate(series) ? sum / Math.max(seconds, weight) : sum / weight;
}

export function sumOfMeans(series: readonly StoredSeries[], over: Over): number | null {
  const known = series.map((one) => meanOver(one, over)).filter((mean) => mean !== null);
  return known.length === 0 ? null : known.reduce((sum, mean) => sum + mean, 0);
}

/** Seconds of some bins in which anything is told of a host. */
export function toldSeconds(series: readonly StoredSeries[], of: Bin, from: number, to: number): number {
  const seconds = series.filter(isRate).map((one) => {
    const weights = of(one)?.weight ?? new Float64Array();
    return weights.slice(from, to).reduce((sum, part) => sum + part, 0);
  });
  return Math.max(0, ...seconds);
}

export const gaugeOf = (series: readonly StoredSeries[], over: Over, name: string): number | null => {
  const [one] = series.filter((candidate) => candidate.name === name);
  return one ? meanOver(one, over) : null;
};

export function sumLine(series: readonly StoredSeries[], of: Bin): Line | null {
  if (series.length === 0) return null;
  const bins = series.map(of).filter((one) => one !== undefined);
  return Array.from({ length: bins[0]?.weight.length ?? 0 }, (_, bin) => {
    const known = bins.map((one) => meanIn(one, bin)).filter((mean) => mean !== null);
    return known.length === 0 ? null : known.reduce((sum, mean) => sum + mean, 0);
  });
}
