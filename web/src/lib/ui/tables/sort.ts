export type Direction = 'asc' | 'desc';

/** A copy of the rows by a number or text of theirs; rows without one come last. */
export function sortRows<Row>(
  rows: readonly Row[],
  valueOf: (row: Row) => number | string | null,
  direction: Direction
): Row[] {
  const sign = direction === 'asc' ? 1 : -1;
  const missing = (value: number | string | null): boolean =>
    value === null || (typeof value === 'number' && Number.isNaN(value));
  return rows.toSorted((a, b) => {
    const [x, y] = [valueOf(a), valueOf(b)];
    if (missing(x) || missing(y)) return Number(missing(x)) - Number(missing(y));
    return sign * (typeof x === 'string' ? x.localeCompare(String(y)) : Number(x) - Number(y));
  });
}
