import {
  blob,
  index,
  integer,
  primaryKey,
  real,
  sqliteTable,
  text,
  uniqueIndex
} from 'drizzle-orm/sqlite-core';

/** The ten accounts as columns: of a request's own ledger (`in`), and of the time in which it is the innermost (`ex`). */
const ledgerColumns = {
  inOwnCode: integer('in_own_code').notNull(),
  inDatabase: integer('in_database').notNull(),
  inCache: integer('in_cache').notNull(),
  inRemote: integer('in_remote').notNull(),
  inMessaging: integer('in_messaging').notNull(),
  inFile: integer('in_file').notNull(),
  inLock: integer('in_lock').notNull(),
  inPause: integer('in_pause').notNull(),
  inQueue: integer('in_queue').notNull(),
  inUnseen: integer('in_unseen').notNull(),
  exOwnCode: integer('ex_own_code').notNull(),
  exDatabase: integer('ex_database').notNull(),
  exCache: integer('ex_cache').notNull(),
  exRemote: integer('ex_remote').notNull(),
  exMessaging: integer('ex_messaging').notNull(),
  exFile: integer('ex_file').notNull(),
  exLock: integer('ex_lock').notNull(),
  exPause: integer('ex_pause').notNull(),
  exQueue: integer('ex_queue').notNull(),
  exUnseen: integer('ex_unseen').notNull()
};

export const services = sqliteTable('services', {
  id: integer('id').primaryKey(),
  name: text('name').notNull().unique(),
  /** 1 once an entry span of it came: from then on its other root spans are background work. */
  serves: integer('serves').notNull().default(0)
});
export const hosts = sqliteTable('hosts', {
  id: integer('id').primaryKey(),
  name: text('name').notNull().unique()
});

export const releases = sqliteTable(
  'releases',
  {
    id: integer('id').primaryKey(),
    serviceId: integer('service_id').notNull(),
    name: text('name').notNull(),
    /** Epoch microseconds of its first request. */
    firstUs: integer('first_us').notNull()
  },
  (t) => [uniqueIndex('releases_name').on(t.serviceId, t.name)]
);

export const endpoints = sqliteTable(
  'endpoints',
  {
    id: integer('id').primaryKey(),
    serviceId: integer('service_id').notNull(),
    name: text('name').notNull(),
    apdexTMs: integer('apdex_t_ms').notNull()
  },
  (t) => [uniqueIndex('endpoints_name').on(t.serviceId, t.name)]
);

/** A process that sent spans. */
export const resources = sqliteTable('resources', {
  id: integer('id').primaryKey(),
  key: text('key').notNull().unique(),
  serviceId: integer('service_id').notNull(),
  hostId: integer('host_id').notNull(),
  releaseId: integer('release_id').notNull(),
  pid: integer('pid').notNull(),
  /** JSON list of [name, value]. */
  attributes: text('attributes').notNull(),
  /** Epoch microseconds of the earliest request it served; null before any. */
  firstUs: integer('first_us')
});

export const callGroups = sqliteTable(
  'call_groups',
  {
    id: integer('id').primaryKey(),
    kind: text('kind').notNull(),
    fingerprint: text('fingerprint').notNull(),
    verb: text('verb').notNull()
  },
  (t) => [uniqueIndex('call_groups_fingerprint').on(t.kind, t.fingerprint)]
);

/** WITHOUT ROWID (see the migration): the spans of a trace lie side by side. */
export const spans = sqliteTable(
  'spans',
  {
    traceId: text('trace_id').notNull(),
    spanId: text('span_id').notNull(),
    parentId: text('parent_id').notNull(),
    resourceId: integer('resource_id').notNull(),
    /** Epoch microseconds, and nanoseconds (0 to 999) beyond them. */
    startUs: integer('start_us').notNull(),
    startNs: integer('start_ns').notNull(),
    durationNs: integer('duration_ns').notNull(),
    kind: integer('kind').notNull(),
    name: text('name').notNull(),
    status: integer('status').notNull(),
    statusMessage: text('status_message').notNull(),
    callGroupId: integer('call_group_id'),
    /** Keyed hash of the call's literals. */
    literals: integer('literals'),
    rows: integer('rows'),
    origin: text('origin').notNull(),
    attributes: text('attributes').notNull(),
    events: text('events').notNull()
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
    kind: text('kind').notNull(),
    id: text('id').notNull(),
    name: text('name').notNull(),
    reason: text('reason').notNull(),
    tries: integer('tries').notNull(),
    /** 1: set aside. */
    aside: integer('aside').notNull(),
    atUs: integer('at_us').notNull()
  },
  (t) => [primaryKey({ columns: [t.kind, t.id] })]
);

/** Browsers that are signed in. The cookie itself is not stored. */
export const sessions = sqliteTable('sessions', {
  /** SHA-256 of the cookie. */
  id: text('id').primaryKey(),
  createdAtUs: integer('created_at_us').notNull(),
  usedAtUs: integer('used_at_us').notNull(),
  expiresAtUs: integer('expires_at_us').notNull(),
  address: text('address').notNull(),
  agent: text('agent').notNull()
});

export const requests = sqliteTable(
  'requests',
  {
    traceId: text('trace_id').notNull(),
    spanId: text('span_id').notNull(),
    serviceId: integer('service_id').notNull(),
    endpointId: integer('endpoint_id').notNull(),
    hostId: integer('host_id').notNull(),
    releaseId: integer('release_id').notNull(),
    startUs: integer('start_us').notNull(),
    durationNs: integer('duration_ns').notNull(),
    failed: integer('failed').notNull(),
    exclusiveNs: integer('exclusive_ns').notNull(),
    spanCount: integer('span_count').notNull(),
    callCount: integer('call_count').notNull(),
    findingCount: integer('finding_count').notNull(),
    resourceId: integer('resource_id').notNull(),
    /** Numbers of attribute values, of call groups, and names of rules, each between spaces, so that one is found as text. */
    pairs: text('pairs').notNull(),
    callGroups: text('call_groups').notNull(),
    rules: text('rules').notNull(),
    /** 1: a root span of no entry kind, taken for a request since its service sends no entry spans. */
    byRoot: integer('by_root').notNull().default(0),
    ...ledgerColumns
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
    index('requests_endpoint').on(t.endpointId, t.startUs)
  ]
);

/** Root spans that serve nobody: timers, file reads at start, name look-ups. In no sum. */
export const backgroundWork = sqliteTable(
  'background_work',
  {
    traceId: text('trace_id').notNull(),
    spanId: text('span_id').notNull(),
    serviceId: integer('service_id').notNull(),
    hostId: integer('host_id').notNull(),
    releaseId: integer('release_id').notNull(),
    name: text('name').notNull(),
    startUs: integer('start_us').notNull(),
    durationNs: integer('duration_ns').notNull(),
    failed: integer('failed').notNull(),
    spanCount: integer('span_count').notNull(),
    callCount: integer('call_count').notNull()
  },
  (t) => [primaryKey({ columns: [t.traceId, t.spanId] }), index('background_work_start').on(t.startUs)]
);

export const findings = sqliteTable(
  'findings',
  {
    id: integer('id').primaryKey(),
    traceId: text('trace_id').notNull(),
    spanId: text('span_id').notNull(),
    serviceId: integer('service_id').notNull(),
    endpointId: integer('endpoint_id').notNull(),
    hostId: integer('host_id').notNull(),
    releaseId: integer('release_id').notNull(),
    startUs: integer('start_us').notNull(),
    rule: text('rule').notNull(),
    severity: text('severity').notNull(),
    subject: text('subject').notNull(),
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

/**
 * Requests summed up by time, endpoint, host and release. The same request is counted at every step and under every margin:
 * 0 by all three, 1 of all hosts and releases (which are 0 there), 2 of everything.
 */
export const rollups = sqliteTable(
  'rollups',
  {
    /** Length of a bin in minutes. */
    step: integer('step').notNull(),
    /** Bins of that length since the epoch (UTC). */
    at: integer('at').notNull(),
    margin: integer('margin').notNull(),
    endpointId: integer('endpoint_id').notNull(),
    hostId: integer('host_id').notNull(),
    releaseId: integer('release_id').notNull(),
    count: integer('count').notNull(),
    failed: integer('failed').notNull(),
    totalNs: integer('total_ns').notNull(),
    exclusiveNs: integer('exclusive_ns').notNull(),
    callCount: integer('call_count').notNull(),
    ...ledgerColumns,
    /** Latency sketches over microseconds, of all and of the failed. */
    sketch: text('sketch').notNull(),
    failedSketch: text('failed_sketch').notNull()
  },
  (t) => [primaryKey({ columns: [t.step, t.margin, t.at, t.endpointId, t.hostId, t.releaseId] })]
);

/** Parts of requests (call groups and own spans) summed up by time and by who asks. */
export const callRollups = sqliteTable(
  'call_rollups',
  {
    step: integer('step').notNull(),
    at: integer('at').notNull(),
    groupId: integer('group_id').notNull(),
    originId: integer('origin_id').notNull(),
    endpointId: integer('endpoint_id').notNull(),
    hostId: integer('host_id').notNull(),
    releaseId: integer('release_id').notNull(),
    requests: integer('requests').notNull(),
    calls: integer('calls').notNull(),
    totalNs: integer('total_ns').notNull(),
    bookedNs: integer('booked_ns').notNull(),
    failed: integer('failed').notNull(),
    retried: integer('retried').notNull(),
    onRound: integer('on_round').notNull(),
    rows: integer('rows').notNull(),
    rowsKnown: integer('rows_known').notNull(),
    bytesRead: integer('bytes_read').notNull(),
    bytesWritten: integer('bytes_written').notNull(),
    slowestNs: integer('slowest_ns').notNull(),
    /** Most calls in one request. */
    mostCalls: integer('most_calls').notNull(),
    sketch: text('sketch').notNull()
  },
  (t) => [
    primaryKey({
      columns: [t.step, t.at, t.groupId, t.originId, t.endpointId, t.hostId, t.releaseId]
    }),
    index('call_rollups_group').on(t.step, t.groupId, t.at),
    index('call_rollups_endpoint').on(t.step, t.endpointId, t.at)
  ]
);

/** What rules find, by rule and subject. */
export const findingSubjects = sqliteTable(
  'finding_subjects',
  {
    id: integer('id').primaryKey(),
    rule: text('rule').notNull(),
    subject: text('subject').notNull()
  },
  (t) => [uniqueIndex('finding_subjects_what').on(t.rule, t.subject)]
);

/** Findings summed up by time and place; requests that are not kept are counted too. */
export const findingRollups = sqliteTable(
  'finding_rollups',
  {
    step: integer('step').notNull(),
    at: integer('at').notNull(),
    /** 1: all hosts and releases together. */
    margin: integer('margin').notNull(),
    subjectId: integer('subject_id').notNull(),
    endpointId: integer('endpoint_id').notNull(),
    hostId: integer('host_id').notNull(),
    releaseId: integer('release_id').notNull(),
    requests: integer('requests').notNull(),
    costNs: integer('cost_ns').notNull()
  },
  (t) => [
    primaryKey({
      columns: [t.step, t.margin, t.at, t.subjectId, t.endpointId, t.hostId, t.releaseId]
    })
  ]
);

/** Where calls are made: function, file and line as recorded. Number 0 is "not recorded". */
export const origins = sqliteTable('origins', {
  id: integer('id').primaryKey(),
  name: text('name').notNull().unique()
});

/** Values of attributes of entry spans and their processes; requests name them by number. */
export const attributeValues = sqliteTable(
  'attribute_values',
  {
    id: integer('id').primaryKey(),
    name: text('name').notNull(),
    value: text('value').notNull()
  },
  (t) => [uniqueIndex('attribute_values_name').on(t.name, t.value)]
);

/** What a request is made of, JSON: see `parts-row.ts`. */
export const requestParts = sqliteTable(
  'request_parts',
  {
    traceId: text('trace_id').notNull(),
    spanId: text('span_id').notNull(),
    parts: text('parts').notNull()
  },
  (t) => [primaryKey({ columns: [t.traceId, t.spanId] })]
);

/** Which requests are kept in full once they have rested, in this order; none keeps all. */
export const keepRules = sqliteTable('keep_rules', {
  id: integer('id').primaryKey(),
  /** JSON: see core/trace/keep-rules.ts. */
  body: text('body').notNull()
});

/** Findings somebody set aside. */
export const findingMarks = sqliteTable(
  'finding_marks',
  {
    id: integer('id').primaryKey(),
    service: text('service').notNull(),
    endpoint: text('endpoint').notNull(),
    rule: text('rule').notNull(),
    subject: text('subject').notNull(),
    reason: text('reason').notNull(),
    atUs: integer('at_us').notNull(),
    /** Cost per request when it was set aside, nanoseconds. */
    costNs: integer('cost_ns').notNull()
  },
  (t) => [uniqueIndex('finding_marks_what').on(t.service, t.endpoint, t.rule, t.subject)]
);

/** Log records that name a span's trace. */
export const logs = sqliteTable(
  'logs',
  {
    id: integer('id').primaryKey(),
    traceId: text('trace_id').notNull(),
    spanId: text('span_id').notNull(),
    atUs: integer('at_us').notNull(),
    atNs: integer('at_ns').notNull(),
    severity: integer('severity').notNull(),
    body: text('body').notNull(),
    attributes: text('attributes').notNull()
  },
  (t) => [uniqueIndex('logs_trace').on(t.traceId, t.spanId, t.atUs, t.atNs, t.body)]
);

/** Statements of a log file, grouped. */
export const statementGroups = sqliteTable(
  'statement_groups',
  {
    evidenceId: text('evidence_id').notNull(),
    groupId: integer('group_id').notNull(),
    calls: integer('calls').notNull(),
    totalNs: integer('total_ns').notNull(),
    slowestNs: integer('slowest_ns').notNull(),
    rows: integer('rows').notNull(),
    rowsKnown: integer('rows_known').notNull(),
    /** Rows looked at, waits for locks within the total, parsing and planning beside it: sums where told, 0 where not. */
    examined: integer('examined').notNull().default(0),
    lockNs: integer('lock_ns').notNull().default(0),
    planNs: integer('plan_ns').notNull().default(0),
    /** JSON list of [name, calls]: databases, users and applications that asked. */
    askers: text('askers').notNull(),
    sketch: text('sketch').notNull()
  },
  (t) => [primaryKey({ columns: [t.evidenceId, t.groupId] })]
);

export const evidence = sqliteTable(
  'evidence',
  {
    /** Name of its file in the store: SHA-256 of the bytes as they came. */
    id: text('id').primaryKey(),
    kind: text('kind').notNull(),
    format: text('format').notNull(),
    name: text('name').notNull(),
    bytes: integer('bytes').notNull(),
    service: text('service').notNull(),
    host: text('host').notNull(),
    release: text('release').notNull(),
    pid: integer('pid').notNull(),
    /** Epoch microseconds; null where it is not known when this was recorded. */
    startedAtUs: integer('started_at_us'),
    durationNs: integer('duration_ns').notNull(),
    receivedAtUs: integer('received_at_us').notNull(),
    /** JSON: what the reader found, with its warnings. */
    summary: text('summary').notNull(),
    /** Equal for dumps of one process that are read as a series; '' for what stands alone. */
    series: text('series').notNull().default('')
  },
  (t) => [index('evidence_started').on(t.startedAtUs), index('evidence_series').on(t.series)]
);

/** Counters of processes over time: the memory they use. */
export const counters = sqliteTable(
  'counters',
  {
    name: text('name').notNull(),
    service: text('service').notNull(),
    host: text('host').notNull(),
    pid: integer('pid').notNull(),
    /** Epoch microseconds. */
    atUs: integer('at_us').notNull(),
    value: real('value').notNull()
  },
  (t) => [
    primaryKey({ columns: [t.name, t.service, t.host, t.pid, t.atUs] }),
    index('counters_at').on(t.atUs)
  ]
);

export const settings = sqliteTable('settings', {
  key: text('key').primaryKey(),
  value: text('value').notNull()
});

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
    service: text('service').notNull(),
    host: text('host').notNull(),
    release: text('release').notNull(),
    pid: integer('pid').notNull(),
    startedAtUs: integer('started_at_us').notNull(),
    /** CPU the process used just before and while it was recorded, parts of a core; null where not measured. */
    cpuBefore: real('cpu_before'),
    cpuDuring: real('cpu_during'),
    /** By how much longer the same work took while it was recorded, parts of one; null where not measured. */
    costLow: real('cost_low'),
    costHigh: real('cost_high')
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
