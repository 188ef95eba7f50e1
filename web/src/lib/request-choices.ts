/** Sortings of the list of requests. */
export const SORT_NAMES = {
  duration: 'slowest',
  time: 'newest',
  calls: 'most calls',
  findings: 'most findings'
} as const;
export type Sort = keyof typeof SORT_NAMES;

/** What requests may be grouped by, beside any attribute as `attr:name`. */
export const GROUPINGS = ['service', 'endpoint', 'host', 'release', 'status', 'user'] as const;

/** Columns of the list, in the order they stand; attributes come as `attr:name`. */
export const REQUEST_COLUMNS = [
  'at',
  'service',
  'endpoint',
  'host',
  'release',
  'calls',
  'spans',
  'findings',
  'ledger',
  'duration'
] as const;
export const DEFAULT_COLUMNS = REQUEST_COLUMNS.filter((name) => name !== 'spans').join(',');

export const attributeOf = (column: string): string | null =>
  column.startsWith('attr:') ? column.slice(5) : null;
