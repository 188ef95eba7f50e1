import { sql } from 'drizzle-orm';
import { blob, index, integer, primaryKey, sqliteTable, text, uniqueIndex } from 'drizzle-orm/sqlite-core';
import { integers, texts } from './columns';

// Spans and log records as they came, and what becomes of their traces.

/** WITHOUT ROWID (see the migration): the spans of a trace lie side by side. */
export const spans = sqliteTable(
  'spans',
  {
    ...texts('traceId', 'spanId', 'parentId'),
    resourceId: integer('resource_id').notNull(),
    /** Epoch microseconds, and nanoseconds (0 to 999) beyond them. */
    ...integers('startUs', 'startNs', 'durationNs', 'kind'),
    name: text('name').notNull(),
    status: integer('status').notNull(),
    statusMessage: text('status_message').notNull(),
    callGroupId: integer('call_group_id'),
    /** Keyed hash of the call's literals. */
    literals: integer('literals'),
    rows: integer('rows'),
    ...texts('origin', 'attributes', 'events')
  },
  (t) => [primaryKey({ columns: [t.traceId, t.spanId] })]
);

/** Traces whose spans are stored but not yet booked: a restart takes them up again. */
export const pendingTraces = sqliteTable('pending_traces', {
  traceId: text('trace_id').primaryKey(),
  /** Grows with every batch that brings spans of the trace: a booking clears only the mark whose spans it has read. */
  generation: integer('generation').notNull().default(0)
});

/** Traces that came when they were older than requests are kept: kept for the grace time, or for good where somebody wishes. */
export const oldTraces = sqliteTable(
  'old_traces',
  {
    traceId: text('trace_id').primaryKey(),
    /** Epoch microseconds. */
    receivedAtUs: integer('received_at_us').notNull(),
    /** Names the batch it came in. */
    source: text('source').notNull(),
    /** 1: it stays. */
    keep: integer('keep').notNull()
  },
  (t) => [index('old_traces_source').on(t.source)]
);

/** Traces that were counted in the roll-ups and removed since: sent again, they are shown but not counted again. */
export const removedTraces = sqliteTable('removed_traces', {
  id: integer('id').primaryKey(),
  /** The 16 bytes of its id. */
  traceId: blob('trace_id').notNull().unique()
});

/** What ended the thread that worked on it, and how often; at the second time it is set aside and not tried again by itself. */
export const setAside = sqliteTable(
  'set_aside',
  {
    /** `trace`, `batch`, `file`, `dump` or `recording`. */
    ...texts('kind', 'id', 'name', 'reason'),
    tries: integer('tries').notNull(),
    /** 1: set aside. */
    aside: integer('aside').notNull(),
    atUs: integer('at_us').notNull()
  },
  (t) => [primaryKey({ columns: [t.kind, t.id] })]
);

/** Log records: of a span, of a trace, or only of their process. */
export const logs = sqliteTable(
  'logs',
  {
    id: integer('id').primaryKey(),
    /** '' where it names none. */
    ...texts('traceId', 'spanId'),
    /** The process that wrote it; 0 for those of an earlier version. */
    resourceId: integer('resource_id').notNull().default(0),
    ...integers('atUs', 'atNs', 'severity'),
    ...texts('body', 'attributes'),
    /** 1: it tells of a failure, see core/failures/logged-failures.ts. */
    failure: integer('failure').notNull().default(0)
  },
  (t) => [
    uniqueIndex('logs_trace').on(t.traceId, t.spanId, t.atUs, t.atNs, t.resourceId, t.body),
    index('logs_time').on(t.atUs),
    index('logs_failure')
      .on(t.traceId, t.atUs)
      .where(sql`${t.failure} = 1`)
  ]
);
