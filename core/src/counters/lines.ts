import type { Line } from './strips';

/** The mean of what is known in a stretch, or in all; null where nothing is. */
export function meanOf(line: Line, from = 0, to = line.length): number | null {
  let sum = 0;
  let count = 0;
  for (let bin = from; bin < to; bin++) {
    const value = line[bin];
    if (value === null || value === undefined) continue;
    sum += value;
    count++;
  }
  return count === 0 ? null : sum / count;
}

/** The greatest value of what is known in a stretch, or in all; null where nothing is. */
export function greatestOf(line: Line, from = 0, to = line.length): number | null {
  const known = line.slice(from, to).filter((value) => value !== null);
  return known.length === 0 ? null : Math.max(...known);
}
