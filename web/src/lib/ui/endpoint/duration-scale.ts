import { DURATION_CLASSES } from '$lib/endpoint-choices';
import type { Histogram } from '$lib/server/queries/histogram';

/** Duration classes have equal ratios: class c holds microseconds from 10^(c / n) on. Its lower bound in nanoseconds. */
export const classFrom = (at: number): number => 10 ** (at / DURATION_CLASSES) * 1000;
/** The class (with its fraction) of a duration in nanoseconds. */
export const classOf = (ns: number): number => Math.log10(Math.max(1, ns / 1000)) * DURATION_CLASSES;

export interface Classes {
  /** First class shown, and how many. */
  first: number;
  count: number;
}

/** The classes that hold all of some histograms, with a little room, at least one factor of ten. */
export function classesOf(histograms: readonly Histogram[]): Classes {
  let low = Infinity;
  let high = -Infinity;
  for (const histogram of histograms)
    for (const [at] of histogram) {
      low = Math.min(low, at);
      high = Math.max(high, at);
    }
  if (low > high) return { first: 30, count: DURATION_CLASSES };
  const room = Math.max(0, DURATION_CLASSES - (high - low + 1));
  return { first: low - Math.floor(room / 2), count: high - low + 1 + room };
}

/** Durations worth a line on a logarithmic axis: 1, 2 and 5 times the powers of ten, fewer where they stand close. */
export function durationTicks({ first, count }: Classes, most: number): number[] {
  const from = classFrom(first);
  const to = classFrom(first + count);
  for (const factors of [[1, 2, 5], [1, 3], [1]]) {
    const ticks: number[] = [];
    for (let power = Math.floor(Math.log10(from)); power <= Math.log10(to); power++)
      for (const factor of factors) {
        const at = factor * 10 ** power;
        if (at >= from * 0.999 && at <= to * 1.001) ticks.push(at);
      }
    if (ticks.length <= most) return ticks;
  }
  return [];
}
