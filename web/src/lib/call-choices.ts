/** What the rows of the calls view are. */
export const CALL_ROWS = {
  statement: 'call group',
  /** Files by their pattern, whatever is done to them. */
  file: 'file',
  origin: 'origin',
  endpoint: 'endpoint',
  service: 'service',
  host: 'host'
} as const;
export type CallRows = keyof typeof CALL_ROWS;

/** The rows that calls of a kind ('' for all) are listed by: only files have a row a file. */
export const rowsOfKind = (kind: string): CallRows[] =>
  (Object.keys(CALL_ROWS) as CallRows[]).filter((rows) => rows !== 'file' || kind === 'file');

/** Those that are listed unless others are asked for. */
export const usualRows = (kind: string): CallRows => (kind === 'file' ? 'file' : 'statement');
