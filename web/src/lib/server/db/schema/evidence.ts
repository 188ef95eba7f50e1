import { index, integer, primaryKey, real, sqliteTable, text } from 'drizzle-orm/sqlite-core';
import { integers, ofProcess, texts } from './columns';

// Files that were loaded or recorded, and the recordings.

export const evidence = sqliteTable(
  'evidence',
  {
    /** Name of its file in the store: SHA-256 of the bytes as they came. */
    id: text('id').primaryKey(),
    ...texts('kind', 'format', 'name'),
    bytes: integer('bytes').notNull(),
    ...ofProcess,
    /** Epoch microseconds; null where it is not known when this was recorded. */
    startedAtUs: integer('started_at_us'),
    durationNs: integer('duration_ns').notNull(),
    receivedAtUs: integer('received_at_us').notNull(),
    /** JSON: what the reader found, with its warnings. */
    summary: text('summary').notNull(),
    /** Equal for dumps of one process that are read as a series; '' for what stands alone. */
    series: text('series').notNull().default(''),
    /** When it goes by itself, epoch microseconds, as whoever gathered it said; null where it stays. */
    keepUntilUs: integer('keep_until_us')
  },
  (t) => [index('evidence_started').on(t.startedAtUs), index('evidence_series').on(t.series)]
);

/** Statements of a log file, grouped. */
export const statementGroups = sqliteTable(
  'statement_groups',
  {
    evidenceId: text('evidence_id').notNull(),
    ...integers('groupId', 'calls', 'totalNs', 'slowestNs', 'rows', 'rowsKnown'),
    /** Rows looked at, waits for locks within the total, parsing and planning beside it: sums where reported, 0 where not. */
    examined: integer('examined').notNull().default(0),
    lockNs: integer('lock_ns').notNull().default(0),
    planNs: integer('plan_ns').notNull().default(0),
    /** JSON list of [name, calls]: databases, users and applications that asked. */
    askers: text('askers').notNull(),
    sketch: text('sketch').notNull()
  },
  (t) => [primaryKey({ columns: [t.evidenceId, t.groupId] })]
);

/** Recordings of running processes, under way and done. */
export const recordings = sqliteTable(
  'recordings',
  {
    id: text('id').primaryKey(),
    /** Address of the inspector, `host:port`. */
    address: text('address').notNull(),
    /** `cpu` or `allocation`. */
    kind: text('kind').notNull(),
    seconds: integer('seconds').notNull(),
    /** Microseconds between samples, or bytes between samples of allocation. */
    interval: integer('interval').notNull(),
    /** `recording`, `saving`, `saved`, `failed` or `cancelled`. */
    state: text('state').notNull(),
    /** What went wrong, or what is worth knowing. */
    message: text('message').notNull(),
    /** The plan it belongs to; '' for none. */
    planId: text('plan_id').notNull(),
    /** The profile that came of it; '' until it is saved. */
    evidenceId: text('evidence_id').notNull(),
    ...ofProcess,
    startedAtUs: integer('started_at_us').notNull(),
    /** CPU the process used just before and while it was recorded, parts of a core; null where not measured. */
    cpuBefore: real('cpu_before'),
    cpuDuring: real('cpu_during'),
    /** By how much longer the same work took while it was recorded, parts of one; null where not measured. */
    costLow: real('cost_low'),
    costHigh: real('cost_high'),
    /** CPU the process used while sampling was begun and its samples were handed over, microseconds; null where not measured. */
    handlingUs: integer('handling_us')
  },
  (t) => [index('recordings_started').on(t.startedAtUs)]
);

/** Recordings to be made again and again, or when an endpoint is slow. */
export const recordingPlans = sqliteTable('recording_plans', {
  id: text('id').primaryKey(),
  /** JSON: see `RecordingPlan`. */
  body: text('body').notNull(),
  createdAtUs: integer('created_at_us').notNull()
});

/** Load runs: those under way, and those that became evidence. Their numbers are never given again: sums refer to them. */
export const loadRuns = sqliteTable(
  'load_runs',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    /** Left half of the ids of its traces. */
    key: text('key').notNull().unique(),
    name: text('name').notNull(),
    /** `running`, or how it ended: see core/load/run-file.ts. */
    state: text('state').notNull(),
    /** What went wrong, or what is worth knowing. */
    message: text('message').notNull().default(''),
    /** Its file; '' until it has ended. */
    evidenceId: text('evidence_id').notNull().default(''),
    startedAtUs: integer('started_at_us').notNull(),
    /** Microseconds; of one under way 0. */
    endUs: integer('end_us').notNull().default(0),
    /** JSON, without its secrets: see core/load/plan.ts. */
    plan: text('plan').notNull(),
    /** JSON list of the recordings made on the way. */
    recordings: text('recordings').notNull().default('[]')
  },
  (t) => [index('load_runs_started').on(t.startedAtUs)]
);

/** Functions, classes and threads that evidence names, so that it is found by them. */
export const evidenceNames = sqliteTable(
  'evidence_names',
  {
    evidenceId: text('evidence_id').notNull(),
    name: text('name').notNull()
  },
  (t) => [primaryKey({ columns: [t.evidenceId, t.name] })]
);
