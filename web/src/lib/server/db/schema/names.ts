import { integer, sqliteTable, text, uniqueIndex } from 'drizzle-orm/sqlite-core';
import { integers, texts } from './columns';

// Names with a number each: what rows refer to.

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
  ...integers('serviceId', 'hostId', 'releaseId', 'pid'),
  /** JSON list of [name, value]. */
  attributes: text('attributes').notNull(),
  /** Epoch microseconds of the earliest request it served; null before any. */
  firstUs: integer('first_us')
});

export const callGroups = sqliteTable(
  'call_groups',
  {
    id: integer('id').primaryKey(),
    ...texts('kind', 'fingerprint', 'verb'),
    /** The service that answers, as traces tell; '' before one does, `*` where several do. */
    callee: text('callee').notNull().default('')
  },
  (t) => [uniqueIndex('call_groups_fingerprint').on(t.kind, t.fingerprint)]
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
