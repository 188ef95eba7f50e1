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
import { integers, texts } from './columns';

// Loads of pages by browsers.

/** Pages: a site, and a path without ids. */
export const pages = sqliteTable(
  'pages',
  { id: integer('id').primaryKey(), ...texts('site', 'name') },
  (t) => [uniqueIndex('pages_name').on(t.site, t.name)]
);

/** Who waits before pages: what loads are told apart by. '' for what is not told. */
export const pageAudiences = sqliteTable(
  'page_audiences',
  { id: integer('id').primaryKey(), ...texts('release', 'device', 'connection', 'country') },
  (t) => [uniqueIndex('page_audiences_what').on(t.release, t.device, t.connection, t.country)]
);

export const pageLoads = sqliteTable(
  'page_loads',
  {
    traceId: text('trace_id').primaryKey(),
    /** The greatest number of a part that came; see core/pages/wire.ts. */
    ...integers('pageId', 'audienceId', 'startUs', 'receivedUs', 'part'),
    /** See core/pages/page-load.ts: those of visitors are summed up and listed, the others only where they are looked for. */
    ...texts('session', 'source', 'navigation'),
    /** What was not measured is null: milliseconds, and of CLS its score. */
    ttfb: real('ttfb'),
    fcp: real('fcp'),
    lcp: real('lcp'),
    inp: real('inp'),
    cls: real('cls'),
    /** 0 to 100; null where nothing was measured. */
    score: real('score'),
    ...integers('resources', 'tasks', 'steps', 'errors'),
    /** The profile the page made of itself; '' for none. */
    profile: text('profile').notNull().default(''),
    /** The load as a whole, JSON, gzip: see core/pages/page-load.ts. */
    data: blob('data').notNull()
  },
  (t) => [
    // Cover lists and distributions, so that the wide rows are not read for them.
    index('page_loads_page').on(t.pageId, t.source, t.startUs, t.audienceId, t.lcp),
    index('page_loads_start').on(t.startUs),
    index('page_loads_received').on(t.source, t.receivedUs),
    index('page_loads_session').on(t.session, t.startUs)
  ]
);

/** Which load asked for a request of a server, where the server said by which span it answered. WITHOUT ROWID (see the migration). */
export const pageAsks = sqliteTable('page_asks', { ...texts('traceId', 'spanId', 'loadId') }, (t) => [
  primaryKey({ columns: [t.traceId, t.spanId, t.loadId] }),
  index('page_asks_load').on(t.loadId)
]);

/** Loads summed up by time, page and audience; and of every audience. WITHOUT ROWID (see the migration). */
export const pageRollups = sqliteTable(
  'page_rollups',
  {
    /** `margin`: 0 by both; 1: every audience together, which is 0 there. */
    ...integers('step', 'margin', 'at', 'pageId', 'audienceId'),
    /** All loads; those that have a score, and the sum of it in hundredths of a point. */
    ...integers('loads', 'scored', 'scoreSum', 'errors'),
    /** Sketches over microseconds, of CLS over millionths. */
    ...texts('ttfb', 'fcp', 'lcp', 'inp', 'cls')
  },
  (t) => [primaryKey({ columns: [t.step, t.margin, t.at, t.pageId, t.audienceId] })]
);
