/**
 * The p-quantile of sorted values by linear interpolation between order statistics.
 * Source: Hyndman & Fan, "Sample Quantiles in Statistical Packages" (1996), type 7.
 * @param sorted ascending; may be empty.
 * @param p between 0 and 1.
 * @returns NaN for no values.
 */
export function quantileSorted(sorted: ArrayLike<number>, p: number): number {
  const n = sorted.length;
  if (n === 0) return NaN;
  const at = (n - 1) * Math.min(1, Math.max(0, p));
  const low = Math.floor(at);
  const high = Math.min(n - 1, low + 1);
  return sorted[low] + (sorted[high] - sorted[low]) * (at - low);
}

/** The quantiles of values in any order; the values given are not changed. */
export function quantiles(values: ArrayLike<number>, ps: readonly number[]): number[] {
  const sorted = Float64Array.from(values).sort();
  return ps.map((p) => quantileSorted(sorted, p));
}

/** The middle value (type 7). */
export function median(values: ArrayLike<number>): number {
  return quantiles(values, [0.5])[0];
}
