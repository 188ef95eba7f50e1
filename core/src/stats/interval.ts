import { quantiles } from './percentile';

/** Where a figure lies, as far as the samples tell. */
export interface Interval {
  low: number;
  high: number;
}

/** What holds the truth in 95 of 100 intervals. Common practice. */
export const LEVEL = 0.95;

/**
 * The interval that a share of the values lies in, the same left out at both ends (the percentile interval of a bootstrap).
 * Source: B. Efron, R. Tibshirani, "An Introduction to the Bootstrap" (1993), 13.3.
 * @param level share of the values within, 0 to 1.
 */
export function percentileInterval(values: ArrayLike<number>, level = LEVEL): Interval {
  const outside = (1 - level) / 2;
  const [low, high] = quantiles(values, [outside, 1 - outside]);
  return { low, high };
}

export const holds = ({ low, high }: Interval, value: number): boolean => low <= value && value <= high;
export const overlaps = (a: Interval, b: Interval): boolean => a.low <= b.high && b.low <= a.high;
