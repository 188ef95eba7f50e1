/** What the rows of the calls view are. */
export const CALL_ROWS = {
  statement: 'call group',
  origin: 'origin',
  endpoint: 'endpoint',
  service: 'service'
} as const;
export type CallRows = keyof typeof CALL_ROWS;

/** Where calls are read from. */
export const CALL_SOURCES = { traces: 'traces', logs: 'statement logs' } as const;
export type CallSource = keyof typeof CALL_SOURCES;
