/** The greatest of some numbers, −Infinity for none. Unlike `Math.max(...)` it takes any number of them. */
export function greatestOf(values: Iterable<number>): number {
  let greatest = -Infinity;
  for (const value of values) if (value > greatest) greatest = value;
  return greatest;
}

/** The least of some numbers, Infinity for none. */
export function leastOf(values: Iterable<number>): number {
  let least = Infinity;
  for (const value of values) if (value < least) least = value;
  return least;
}
