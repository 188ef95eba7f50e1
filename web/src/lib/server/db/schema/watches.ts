import { index, integer, real, sqliteTable, text } from 'drizzle-orm/sqlite-core';
import { integers, texts } from './columns';

// Watches, what they said, and who was told; and boards.

export const watches = sqliteTable('watches', {
  id: text('id').primaryKey(),
  /** JSON: see core/watch/watch.ts. */
  body: text('body').notNull(),
  createdAtUs: integer('created_at_us').notNull(),
  version: integer('version').notNull().default(1),
  /** Until then it is judged and nobody is told; 0 for not silenced. */
  silentUntilUs: integer('silent_until_us').notNull().default(0)
});

/** How each watch stands: see core/watch/state.ts. A row that is missing begins at the present. */
export const watchStandings = sqliteTable('watch_standings', {
  watchId: text('watch_id').primaryKey(),
  /** The last minute that was judged, since the epoch. */
  judged: integer('judged').notNull(),
  state: text('state').notNull(),
  ...integers('since', 'over', 'back', 'none'),
  value: real('value'),
  before: real('before'),
  /** The time it has been on for; '' while it is off. */
  firingId: text('firing_id').notNull().default('')
});

/** The times for which watches were on. */
export const watchFirings = sqliteTable(
  'watch_firings',
  {
    id: text('id').primaryKey(),
    watchId: text('watch_id').notNull(),
    /** Minutes since the epoch after which it came on, and went off; null while it is on. */
    onMinute: integer('on_minute').notNull(),
    offMinute: integer('off_minute'),
    /** What ended it: `off`, `no data`, `changed` or ''. */
    ended: text('ended').notNull().default(''),
    value: real('value'),
    before: real('before'),
    worst: real('worst'),
    /** So many minutes later than it should have been judged. */
    lateMinutes: integer('late_minutes').notNull().default(0),
    /** 1: nobody was told, since it was silenced. */
    silenced: integer('silenced').notNull().default(0),
    /** The case that was opened; '' for none. */
    caseId: text('case_id').notNull().default(''),
    /** Who looked at it, and when; '' for nobody. */
    seenBy: text('seen_by').notNull().default(''),
    seenAtUs: integer('seen_at_us')
  },
  (t) => [index('watch_firings_watch').on(t.watchId, t.onMinute), index('watch_firings_on').on(t.onMinute)]
);

/** Where notices are sent to. */
export const hooks = sqliteTable('hooks', {
  id: text('id').primaryKey(),
  ...texts('name', 'url'),
  /** Key that what is sent is signed with, base64. */
  secret: text('secret').notNull(),
  /** The least severity that is sent there. */
  least: text('least').notNull(),
  createdAtUs: integer('created_at_us').notNull()
});

/** What is to be sent, and what became of it. */
export const deliveries = sqliteTable(
  'deliveries',
  {
    id: text('id').primaryKey(),
    hookId: text('hook_id').notNull(),
    /** '' for a test. */
    firingId: text('firing_id').notNull(),
    kind: text('kind').notNull(),
    /** The JSON text that is sent, the same at each try. */
    body: text('body').notNull(),
    /** `waiting`, `sent` or `failed`. */
    state: text('state').notNull(),
    tries: integer('tries').notNull().default(0),
    nextAtUs: integer('next_at_us').notNull(),
    /** HTTP status of the last answer; 0 for none. */
    status: integer('status').notNull().default(0),
    message: text('message').notNull().default(''),
    createdAtUs: integer('created_at_us').notNull()
  },
  (t) => [index('deliveries_next').on(t.state, t.nextAtUs), index('deliveries_created').on(t.createdAtUs)]
);

/** What a watch is to do when it came on: a case, recordings. */
export const watchTasks = sqliteTable(
  'watch_tasks',
  {
    id: text('id').primaryKey(),
    ...texts('watchId', 'firingId'),
    /** JSON: see core/watch/watch.ts. */
    actions: text('actions').notNull(),
    /** `waiting`, `doing`, `done` or `failed`. */
    state: text('state').notNull(),
    message: text('message').notNull().default(''),
    createdAtUs: integer('created_at_us').notNull()
  },
  (t) => [index('watch_tasks_state').on(t.state), index('watch_tasks_firing').on(t.firingId)]
);

export const boards = sqliteTable('boards', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  /** JSON: see core/watch/board.ts. */
  charts: text('charts').notNull(),
  version: integer('version').notNull().default(1),
  changedAtUs: integer('changed_at_us').notNull()
});
