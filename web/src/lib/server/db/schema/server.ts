import { integer, sqliteTable, text, uniqueIndex } from 'drizzle-orm/sqlite-core';
import { integers, texts } from './columns';

// What the server itself keeps.

/** Browsers that are signed in. The cookie itself is not stored. */
export const sessions = sqliteTable('sessions', {
  /** SHA-256 of the cookie. */
  id: text('id').primaryKey(),
  ...integers('createdAtUs', 'usedAtUs', 'expiresAtUs'),
  address: text('address').notNull(),
  agent: text('agent').notNull()
});

export const settings = sqliteTable('settings', {
  key: text('key').primaryKey(),
  value: text('value').notNull()
});

/** Scopes somebody wants to come back to. */
export const savedScopes = sqliteTable('saved_scopes', {
  id: integer('id').primaryKey(),
  name: text('name').notNull().unique(),
  /** The query of an address. */
  query: text('query').notNull()
});

/** What a finding's removal was predicted to give, and what was measured. */
export const predictions = sqliteTable(
  'predictions',
  {
    id: integer('id').primaryKey(),
    ...texts('service', 'endpoint', 'rule', 'subject'),
    /** Queries of both scopes: the same comparison is judged once. */
    ...texts('sideA', 'sideB'),
    /** Nanoseconds: the median before, what was predicted of it, and where the median was measured to lie. */
    ...integers('beforeNs', 'lowNs', 'highNs', 'measuredLowNs', 'measuredHighNs'),
    /** `held`, `faster than predicted` or `slower than predicted`. */
    state: text('state').notNull(),
    atUs: integer('at_us').notNull()
  },
  (t) => [uniqueIndex('predictions_what').on(t.sideA, t.sideB, t.rule, t.subject)]
);

/** What was done to running processes through this server, and by whom: the newest are kept. */
export const doneLog = sqliteTable('done_log', {
  id: integer('id').primaryKey(),
  atUs: integer('at_us').notNull(),
  /** Name of the session that asked; '' where no token is asked for. */
  who: text('who').notNull(),
  what: text('what').notNull()
});
