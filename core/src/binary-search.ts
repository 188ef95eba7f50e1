/**
 * The first of some places, in ascending order of their values, whose value is at least one given; their number where none is.
 * @param valueAt value of a place, 0 up to `length`.
 */
export function lowerBoundBy(length: number, valueAt: (place: number) => number, value: number): number {
  let low = 0;
  let high = length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (valueAt(middle) < value) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** The first index of ascending numbers whose value is at least one given. */
export const lowerBound = (sorted: ArrayLike<number>, value: number): number =>
  lowerBoundBy(sorted.length, (i) => sorted[i], value);
