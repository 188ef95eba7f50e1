/** A column of a table. */
export interface Column<Row> {
  key: string;
  title: string;
  /** What stands in the header's tooltip: what the figure is, and of what. */
  about?: string;
  /** Pixels, or the least pixels of a column that takes what is left. */
  width: number;
  grows?: boolean;
  /** Pixels a column that grows should have before another gives up its place. */
  wants?: number;
  /** In a narrow table it gives its place to the names: those with the lowest number first; one without never does. */
  gives?: number;
  right?: boolean;
  /** What it is sorted by and exported as; a column without cannot be sorted. */
  value?: (row: Row) => number | string | null;
  /** What is shown where the table gets no snippet for it. */
  text?: (row: Row) => string;
}

export interface Sorting {
  key: string;
  direction: 'asc' | 'desc';
}

/** `-total` is total, greatest first. */
export function sortingFrom(text: string): Sorting {
  return text.startsWith('-') ? { key: text.slice(1), direction: 'desc' } : { key: text, direction: 'asc' };
}

/** What a click on a header makes of the sorting: numbers begin with the greatest, texts with the first. */
export function nextSorting(now: Sorting, key: string, numeric: boolean): string {
  if (now.key !== key) return numeric ? `-${key}` : key;
  return now.direction === 'desc' ? key : `-${key}`;
}

/** Fields of a row for CSV: its values, unrounded. */
export function csvFields<Row>(columns: readonly Column<Row>[], row: Row): (string | number)[] {
  return columns.filter(({ value }) => value).map(({ value }) => value!(row) ?? '');
}
