/** A stretch of bins: the first, and the one after the last. */
export type Stretch = readonly [from: number, to: number];

/** Bins a stretch has at the least: one alone is chance. */
const LEAST_BINS = 3;
/** Bins that do not end a stretch. */
const GAP = 1;

/** The stretches in which something holds for bins, but for single ones in between. */
export function stretchesWhere(bins: number, holds: (bin: number) => boolean): Stretch[] {
  const found: Stretch[] = [];
  let from = -1;
  let last = -1;
  for (let bin = 0; bin <= bins; bin++) {
    if (bin < bins && holds(bin)) {
      if (from < 0) from = bin;
      last = bin;
    } else if (from >= 0 && (bin - last > GAP || bin === bins)) {
      if (last - from + 1 >= LEAST_BINS) found.push([from, last + 1]);
      from = -1;
    }
  }
  return found;
}

/** The longest of some stretches, the earliest of equals; null where there are none. */
export const longestOf = (stretches: readonly Stretch[]): Stretch | null =>
  stretches.reduce<Stretch | null>(
    (longest, one) => (longest && longest[1] - longest[0] >= one[1] - one[0] ? longest : one),
    null
  );
