import { integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

// What the server itself keeps.

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
