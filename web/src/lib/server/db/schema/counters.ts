import { blob, index, integer, sqliteTable, text, uniqueIndex } from 'drizzle-orm/sqlite-core';
import { integers, ofProcess, texts } from './columns';

// Counters: series of numbers and histograms over time.

/** Who sends counters: a process, a host, a collector for others. */
export const counterSources = sqliteTable('counter_sources', {
  id: integer('id').primaryKey(),
  key: text('key').notNull().unique(),
  ...ofProcess,
  /** JSON list of [name, value]. */
  attributes: text('attributes').notNull()
});

export const counterSeries = sqliteTable(
  'counter_series',
  {
    id: integer('id').primaryKey(),
    key: text('key').notNull().unique(),
    sourceId: integer('source_id').notNull(),
    /** See core/counters/series.ts. */
    ...texts('name', 'unit', 'kind'),
    ...integers('isDelta', 'isMonotonic'),
    /** JSON list of [name, value]. */
    attributes: text('attributes').notNull(),
    /** Epoch milliseconds of its newest point. */
    lastMs: integer('last_ms').notNull()
  },
  (t) => [
    index('counter_series_name').on(t.name, t.lastMs),
    index('counter_series_source').on(t.sourceId),
    index('counter_series_last').on(t.lastMs)
  ]
);

/** Points as they came, until they are put into the blocks of their series. */
export const counterBatches = sqliteTable('counter_batches', {
  id: integer('id').primaryKey(),
  points: integer('points').notNull(),
  /** See ingest/counters/batch.ts. */
  data: blob('data').notNull()
});

/** Points of one series, or its sums a minute or an hour. */
export const counterBlocks = sqliteTable(
  'counter_blocks',
  {
    id: integer('id').primaryKey(),
    seriesId: integer('series_id').notNull(),
    /** 0: points; 1: minutes; 2: hours. */
    level: integer('level').notNull(),
    /** Epoch milliseconds of the first and the last point, or bin. */
    ...integers('startMs', 'endMs', 'points'),
    /** 1: compressed, and not likely to change. */
    packed: integer('packed').notNull(),
    /** 1: its points are in the sums of the levels above. */
    rolled: integer('rolled').notNull(),
    /** Its times, where they are shared; else they are in the data. */
    timesId: integer('times_id'),
    /** See core/counters/chunk.ts. */
    data: blob('data').notNull()
  },
  (t) => [
    uniqueIndex('counter_blocks_series').on(t.seriesId, t.level, t.startMs),
    index('counter_blocks_end').on(t.level, t.rolled, t.endMs)
  ]
);

/** Times of points that all series of a sender have alike. */
export const counterTimes = sqliteTable(
  'counter_times',
  {
    id: integer('id').primaryKey(),
    /** SHA-256 of the data, in hexadecimal. */
    hash: text('hash').notNull().unique(),
    /** Epoch milliseconds of the last. */
    endMs: integer('end_ms').notNull(),
    data: blob('data').notNull()
  },
  (t) => [index('counter_times_end').on(t.endMs)]
);

/** What was turned away, so that nobody takes what is missing for zero. */
export const counterRefusals = sqliteTable(
  'counter_refusals',
  {
    id: integer('id').primaryKey(),
    ...texts('name', 'service', 'host', 'reason'),
    points: integer('points').notNull(),
    /** Epoch milliseconds of the latest. */
    atMs: integer('at_ms').notNull()
  },
  (t) => [uniqueIndex('counter_refusals_what').on(t.name, t.service, t.host, t.reason)]
);
