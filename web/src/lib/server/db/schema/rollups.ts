import { index, integer, primaryKey, real, sqliteTable, text } from 'drizzle-orm/sqlite-core';
import { CALL_SUMS, OUTGOING_SUMS } from '../call-sums';
import { integers, ledger, servedBy } from './columns';

// Sums over time.

/**
 * Requests summed up by time, endpoint, host and release. The same request is counted at every step and under every margin:
 * 0 by all three, 1 of all hosts and releases (which are 0 there), 2 of everything. What load run n caused is counted once more, by all three, under −n.
 */
export const rollups = sqliteTable(
  'rollups',
  {
    /** Length of a bin in minutes. */
    step: integer('step').notNull(),
    /** Bins of that length since the epoch (UTC). */
    at: integer('at').notNull(),
    margin: integer('margin').notNull(),
    ...servedBy,
    ...integers('count', 'failed', 'totalNs', 'exclusiveNs', 'callCount'),
    ...ledger,
    /** Latency sketches over microseconds, of all and of the failed. */
    sketch: text('sketch').notNull(),
    failedSketch: text('failed_sketch').notNull()
  },
  (t) => [primaryKey({ columns: [t.step, t.margin, t.at, t.endpointId, t.hostId, t.releaseId] })]
);

const NO_SQUARES = -1e300;

/** Parts of requests (call groups and own spans) summed up by time and by who asks. */
export const callRollups = sqliteTable(
  'call_rollups',
  {
    ...integers('step', 'at', 'groupId', 'originId'),
    ...servedBy,
    /** 0: whoever caused the requests; −n: load run n. */
    margin: integer('margin').notNull().default(0),
    ...integers('requests', ...CALL_SUMS, 'slowestNs'),
    /** Most calls in one request. */
    mostCalls: integer('most_calls').notNull(),
    /** Sum over the requests of each one's booked time squared. What was summed up before this column came has none: far below 0, whatever is added. */
    squares: real('squares').notNull().default(NO_SQUARES),
    sketch: text('sketch').notNull()
  },
  (t) => [
    primaryKey({
      columns: [t.step, t.margin, t.at, t.groupId, t.originId, t.endpointId, t.hostId, t.releaseId]
    }),
    index('call_rollups_group').on(t.step, t.groupId, t.at),
    index('call_rollups_endpoint').on(t.step, t.endpointId, t.at)
  ]
);

/** Outgoing HTTP calls summed up by time, by who asks and by the status of the answer (0 for none). */
export const outgoingRollups = sqliteTable(
  'outgoing_rollups',
  {
    ...integers('step', 'at', 'groupId', 'originId'),
    ...servedBy,
    /** As in `call_rollups`. */
    margin: integer('margin').notNull(),
    ...integers('status', ...OUTGOING_SUMS)
  },
  (t) => [
    primaryKey({
      columns: [t.step, t.margin, t.at, t.groupId, t.originId, t.endpointId, t.hostId, t.releaseId, t.status]
    })
  ]
);

/** Findings summed up by time and place; requests that are not kept are counted too. */
export const findingRollups = sqliteTable(
  'finding_rollups',
  {
    step: integer('step').notNull(),
    at: integer('at').notNull(),
    /** 0 by all three; 1: all hosts and releases together; −n: load run n, by all three. */
    margin: integer('margin').notNull(),
    subjectId: integer('subject_id').notNull(),
    ...servedBy,
    requests: integer('requests').notNull(),
    costNs: integer('cost_ns').notNull()
  },
  (t) => [
    primaryKey({
      columns: [t.step, t.margin, t.at, t.subjectId, t.endpointId, t.hostId, t.releaseId]
    })
  ]
);
