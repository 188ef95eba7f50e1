import type { OutgoingSums } from '@tromix/core/calls/outgoing';

/**
 * What is added up over calls, of one request or of many; times are nanoseconds. Stored parts are read by this order: a
 * figure that comes later stands in a list of its own.
 */
export const CALL_SUMS = [
  'calls',
  'totalNs',
  'bookedNs',
  'failed',
  'retried',
  'onRound',
  'rows',
  'rowsKnown',
  'bytesRead',
  'bytesWritten'
] as const;

/** What is added up over outgoing HTTP calls of one status. */
export const OUTGOING_SUMS = [
  'calls',
  'repeated',
  'phased',
  'answered',
  'lookupNs',
  'connectNs',
  'tlsNs',
  'firstByteNs',
  'restNs'
] as const satisfies readonly (keyof OutgoingSums)[];
