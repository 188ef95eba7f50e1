import { sql } from 'drizzle-orm';
import { index, integer, primaryKey, sqliteTable, text } from 'drizzle-orm/sqlite-core';
import { integers, ofRequest, servedBy, texts } from './columns';

// What failed: groups of failures, each time one happened, and sums over time.

/** Failures that are one: see core/failures/identity.ts. */
export const failureGroups = sqliteTable('failure_groups', {
  id: integer('id').primaryKey(),
  /** All that makes them one, as one text. */
  key: text('key').notNull().unique(),
  ...texts('type', 'message', 'rootType', 'function', 'file', 'endpoint'),
  /** What told of it first: see core/failures/failure-kind.ts. */
  kind: text('kind').notNull().default('exception')
});

/** Ways that failures take from where they start to where people see them. */
export const failureWays = sqliteTable('failure_ways', {
  id: integer('id').primaryKey(),
  /** JSON list of [service, label]. */
  way: text('way').notNull().unique()
});

/** Each time something failed, as long as its trace is kept. */
export const failures = sqliteTable(
  'failures',
  {
    id: integer('id').primaryKey(),
    /** The request it happened in. */
    ...ofRequest,
    /** The span that tells of it; of a crash, which happens outside of every trace, its evidence. */
    atSpanId: text('at_span_id').notNull(),
    serviceId: integer('service_id').notNull(),
    ...servedBy,
    /** When it happened, epoch microseconds. */
    startUs: integer('start_us').notNull(),
    /** Its group; that of the failure it only passes on, 0 where it starts here; its way, 0 where it starts elsewhere. */
    ...integers('groupId', 'passesOn', 'wayId'),
    /** 1: the outermost request failed of it. */
    seen: integer('seen').notNull(),
    /** 1 for the first of its group in its request: their sum counts requests. */
    isFirst: integer('is_first').notNull(),
    /** Number of the value of `user.id` or the like, or of the session; 0 where nobody is named. */
    personId: integer('person_id').notNull(),
    /** Number of the load run that caused it; 0 for none. */
    run: integer('run').notNull()
  },
  (t) => [
    index('failures_trace').on(t.traceId, t.spanId),
    index('failures_group').on(t.groupId, t.startUs),
    // Covers the counting of people; most failures name nobody.
    index('failures_person')
      .on(t.groupId, t.startUs, t.personId)
      .where(sql`${t.personId} > 0`)
  ]
);

/** Failures summed up by time and place; those of traces that are not kept are counted too. */
export const failureRollups = sqliteTable(
  'failure_rollups',
  {
    ...integers('step', 'at'),
    /** 0 by all three; 1: all endpoints, hosts and releases together; −n: load run n, by all three. */
    margin: integer('margin').notNull(),
    groupId: integer('group_id').notNull(),
    ...servedBy,
    ...integers('times', 'requests', 'starts', 'seen')
  },
  (t) => [
    primaryKey({ columns: [t.step, t.margin, t.at, t.groupId, t.endpointId, t.hostId, t.releaseId] }),
    index('failure_rollups_group').on(t.groupId, t.step, t.at)
  ]
);

/** What somebody decided about groups of failures: see core/failures/mark-state.ts. */
export const failureMarks = sqliteTable('failure_marks', {
  groupId: integer('group_id').primaryKey(),
  ...texts('kind', 'release'),
  ...integers('moreTimes', 'timesThen', 'atUs')
});

/** Groups that somebody took to be one: each belongs to the other, which is merged into none itself. */
export const failureMerges = sqliteTable(
  'failure_merges',
  { groupId: integer('group_id').primaryKey(), intoId: integer('into_id').notNull() },
  (t) => [index('failure_merges_into').on(t.intoId)]
);
