import { stretchesWhere } from './stretches';
import { meanOf } from './lines';
import type { Line } from './strips';

/** A stretch of time in which one line stands clear of all others. */
export interface OddStretch {
  row: number;
  /** First bin, and the one after the last. */
  from: number;
  to: number;
  /** Its mean in the stretch. */
  level: number;
  /** Least and greatest mean of the others in it. */
  others: [least: number, greatest: number];
}

/**
 * The stretches in which one of several lines stands clear of the others: over the greatest of them by twice as much as they lie apart themselves, and by at least
 * so much that it matters. Nothing is said of a value by itself: it is the comparison that makes it odd.
 * @param lines of one measure, bin by bin alike; null for rows that do not tell it
 * @param least difference that matters, in the unit of the lines
 * @returns the longest first
 */
export function oddStretches(lines: readonly (Line | null)[], least: number): OddStretch[] {
  const told = lines.flatMap((line, row) => (line ? [{ row, line }] : []));
  if (told.length < 2) return [];
  return told
    .flatMap(({ row, line }) => {
      const others = told.filter((other) => other.row !== row).map((other) => other.line);
      const isOdd = (bin: number): boolean =>
        standsClear(
          line[bin],
          others.map((other) => other[bin]),
          least
        );
      return stretchesWhere(line.length, isOdd).map(([from, to]) => ({
        row,
        from,
        to,
        level: meanOf(line, from, to)!,
        others: rangeOf(others.map((other) => meanOf(other, from, to)))
      }));
    })
    .sort((a, b) => b.to - b.from - (a.to - a.from) || a.row - b.row);
}

function standsClear(value: number | null, others: readonly (number | null)[], least: number): boolean {
  const known = others.filter((other) => other !== null);
  if (value === null || known.length === 0) return false;
  const [low, high] = rangeOf(known);
  // Of one other nothing is known of how far they usually lie apart: it must be twice as much.
  const apart = known.length === 1 ? high : 2 * (high - low);
  return value - high >= Math.max(least, apart);
}

function rangeOf(values: readonly (number | null)[]): [number, number] {
  const known = values.filter((value) => value !== null);
  return known.length === 0 ? [NaN, NaN] : [Math.min(...known), Math.max(...known)];
}
