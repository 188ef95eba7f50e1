/** What the rows of the calls view are. */
export const CALL_ROWS = {
  statement: 'call group',
  origin: 'origin',
  endpoint: 'endpoint',
  service: 'service'
} as const;
export type CallRows = keyof typeof CALL_ROWS;
