import { integer } from 'drizzle-orm/sqlite-core';

/** The ten accounts as columns: of a request's own ledger (`in`), and of the time in which it is the innermost (`ex`). */
export const ledgerColumns = {
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
