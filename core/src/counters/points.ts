import type { Sketch } from '../stats/sketch';

/** When a value was read, epoch milliseconds, and since when it counts: 0 where that is not told. */
export interface PointTimes {
  atMs: number;
  startMs: number;
}

/** A point of a gauge or a sum. */
export interface NumberPoint extends PointTimes {
  value: number;
}

/** Where the buckets of a histogram lie. */
export type Layout =
  /** Upper bounds, ascending; one bucket more than bounds, the last without an upper bound. */
  | { kind: 'explicit'; bounds: readonly number[] }
  /** Bucket i holds what is over base^i up to base^(i+1), base = 2^(2^−scale); what is at most the threshold is counted as zero. */
  | { kind: 'exponential'; scale: number; zeroThreshold: number };

/** Counts of neighbouring buckets from `low` on. */
export type Buckets = Pick<Sketch, 'low' | 'counts'>;

/** A point of a histogram of either kind. */
export interface HistogramPoint extends PointTimes {
  count: number;
  /** NaN where it is not told, as are the least and the greatest value. */
  sum: number;
  min: number;
  max: number;
  layout: Layout;
  /** All buckets of explicit bounds; those of values above zero of an exponential histogram. */
  positive: Buckets;
  /** Buckets of magnitudes below zero; none for explicit bounds. */
  negative: Buckets;
  zero: number;
}
