import { index, integer, primaryKey, sqliteTable, text, uniqueIndex } from 'drizzle-orm/sqlite-core';
import { integers, ledger, ofRequest, servedBy, texts } from './columns';

// What traces come to: requests, what they are made of, and what rules find in them.

export const requests = sqliteTable(
  'requests',
  {
    ...ofRequest,
    serviceId: integer('service_id').notNull(),
    ...servedBy,
    ...integers(
      'startUs',
      'durationNs',
      'failed',
      'exclusiveNs',
      'spanCount',
      'callCount',
      'findingCount',
      'resourceId'
    ),
    /** Numbers of attribute values, of call groups, and names of rules, each between spaces, so that one is found as text. */
    ...texts('pairs', 'callGroups', 'rules'),
    /** 1: a root span of no entry kind, taken for a request since its service sends no entry spans. */
    byRoot: integer('by_root').notNull().default(0),
    /** Number of the load run that caused it; 0 for none. */
    run: integer('run').notNull().default(0),
    ...ledger
  },
  (t) => [
    primaryKey({ columns: [t.traceId, t.spanId] }),
    // Covers counting and percentiles of a scope, so that the wide rows are not read for them.
    index('requests_start').on(
      t.startUs,
      t.durationNs,
      t.failed,
      t.endpointId,
      t.hostId,
      t.releaseId,
      t.pairs,
      t.callGroups,
      t.rules
    ),
    // Covers the durations of an endpoint in order of time.
    index('requests_endpoint').on(
      t.endpointId,
      t.startUs,
      t.durationNs,
      t.failed,
      t.callCount,
      t.hostId,
      t.releaseId
    )
  ]
);

/** Root spans that serve nobody: timers, file reads at start, name look-ups. In no sum. */
export const backgroundWork = sqliteTable(
  'background_work',
  {
    ...ofRequest,
    ...integers('serviceId', 'hostId', 'releaseId'),
    name: text('name').notNull(),
    ...integers('startUs', 'durationNs', 'failed', 'spanCount', 'callCount')
  },
  (t) => [primaryKey({ columns: [t.traceId, t.spanId] }), index('background_work_start').on(t.startUs)]
);

/** What a request is made of, JSON: see `parts-row.ts`. */
export const requestParts = sqliteTable(
  'request_parts',
  {
    ...ofRequest,
    parts: text('parts').notNull()
  },
  (t) => [primaryKey({ columns: [t.traceId, t.spanId] })]
);

export const findings = sqliteTable(
  'findings',
  {
    id: integer('id').primaryKey(),
    ...ofRequest,
    serviceId: integer('service_id').notNull(),
    ...servedBy,
    startUs: integer('start_us').notNull(),
    ...texts('rule', 'severity', 'subject'),
    costNs: integer('cost_ns').notNull(),
    /** 1 for the first of this rule and subject in its request: their sum counts requests. */
    isFirst: integer('is_first').notNull(),
    /** The finding as the rule gave it, JSON. */
    body: text('body').notNull()
  },
  (t) => [
    // Covers the overview's grouping, so that the bodies are not read for it.
    index('findings_start').on(
      t.startUs,
      t.endpointId,
      t.rule,
      t.subject,
      t.costNs,
      t.isFirst,
      t.hostId,
      t.releaseId
    ),
    index('findings_trace').on(t.traceId, t.spanId),
    // Covers how many requests have the same.
    index('findings_same').on(t.endpointId, t.rule, t.subject, t.startUs, t.isFirst)
  ]
);

/** Findings somebody set aside. */
export const findingMarks = sqliteTable(
  'finding_marks',
  {
    id: integer('id').primaryKey(),
    ...texts('service', 'endpoint', 'rule', 'subject', 'reason'),
    atUs: integer('at_us').notNull(),
    /** Cost per request when it was set aside, nanoseconds. */
    costNs: integer('cost_ns').notNull()
  },
  (t) => [uniqueIndex('finding_marks_what').on(t.service, t.endpoint, t.rule, t.subject)]
);

/** Which requests are kept in full once they have rested, in this order; none keeps all. */
export const keepRules = sqliteTable('keep_rules', {
  id: integer('id').primaryKey(),
  /** JSON: see core/trace/keep-rules.ts. */
  body: text('body').notNull()
});
