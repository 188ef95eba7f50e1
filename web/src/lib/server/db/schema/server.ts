import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';
import { integers } from './columns';

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
