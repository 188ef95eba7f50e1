import { createHash } from 'node:crypto';
import type { InStatement } from '@libsql/client';
import { maskResource, type MaskOptions } from '@tromix/core/calls/mask';
import { seriesKey, type Series } from '@tromix/core/counters/series';
import { maskAttributes } from '@tromix/core/mask/attributes';
import type { Resource } from '@tromix/core/trace/span';
import { oneOf } from '../../db/bulk';
import { jsonOf, type Database } from '../../db/database';
import { rowsOf } from '../../db/rows';
import { counterSeries, counterSources } from '../../db/schema';
import { Once } from '../../once';

/** Series that had a point within a day: those of further ones are turned away. */
export const MAX_SERIES = 20_000;
/** Series of one metric of one sender: a name whose attributes never repeat must not take the room of all others. */
export const MAX_PER_METRIC = 1000;
/** Without a point for so long a series no longer counts against the limits, milliseconds. */
export const LIVE_MS = 86_400_000;

export const TOO_MANY_SERIES = `more than ${MAX_SERIES} series a day are not kept`;
export const TOO_MANY_OF_METRIC = `a metric of one sender has at most ${MAX_PER_METRIC} series: an attribute of it never repeats`;

const SOURCES = rowsOf(counterSources);
const SERIES = rowsOf(counterSeries);

interface KnownSeries {
  id: number;
  /** Epoch milliseconds of the newest point, as far as the limits ask. */
  lastMs: number;
  metric: string;
}

/** Series that are live, and who sends them. */
interface Known {
  sources: Map<string, number>;
  series: Map<string, KnownSeries>;
  /** How many there are of each metric of each sender. */
  perMetric: Map<string, number>;
  nextSource: number;
  nextSeries: number;
}

type StoredSeries = [key: string, id: number, lastMs: number, source: number, name: string];
const STORED = 'json_group_array(json_array(key, id, last_ms, source_id, name)) FROM counter_series';

/** Numbers of senders and series: whoever is not known yet gets one, as long as there is room. */
export class SeriesBook {
  readonly #database: Database;
  readonly #mask: MaskOptions;
  readonly #known: Once<Known>;
  /** By the object of a series, which is the same from batch to batch. */
  #remembered = new WeakMap<Series, KnownSeries>();
  /** Why a series has no number, until there is room again. */
  #refused = new WeakMap<Series, string>();
  readonly #masked = new WeakSet<Series>();
  /** Not stored yet: they go with the next transaction that succeeds. */
  #freshSources: (typeof counterSources.$inferInsert)[] = [];
  #freshSeries: (typeof counterSeries.$inferInsert)[] = [];

  constructor(database: Database, mask: MaskOptions) {
    this.#database = database;
    this.#mask = mask;
    this.#known = new Once(() => this.#load(Date.now()));
  }

  async #load(nowMs: number): Promise<Known> {
    const known: Known = {
      sources: new Map(),
      series: new Map(),
      perMetric: new Map(),
      nextSource: 1 + (await this.#greatest('counter_sources')),
      nextSeries: 1 + (await this.#greatest('counter_series'))
    };
    const live = await jsonOf<StoredSeries>(this.#database, `SELECT ${STORED} WHERE last_ms > ?`, [
      nowMs - LIVE_MS
    ]);
    for (const stored of live) note(known, stored);
    return known;
  }

  async #greatest(table: string): Promise<number> {
    const { rows } = await this.#database.query(`SELECT coalesce(max(id), 0) FROM ${table}`);
    return Number(rows[0][0]);
  }

  /** Numbers of series; a text says why one has none. @param asked each with the moment of a point of it, epoch milliseconds */
  async numbersOf(asked: ReadonlyMap<Series, number>): Promise<Map<Series, number | string>> {
    const known = await this.#known.get();
    const unknown = [...asked.keys()].filter((one) => !this.#remembered.has(one) && !this.#refused.has(one));
    if (unknown.length > 0) await this.#learn(unknown, asked, known);
    const numbers = new Map<Series, number | string>();
    for (const [series, atMs] of asked) {
      const found = this.#remembered.get(series);
      if (found && atMs > found.lastMs) found.lastMs = atMs;
      numbers.set(series, found?.id ?? this.#refused.get(series)!);
    }
    return numbers;
  }

  async #learn(list: readonly Series[], asked: ReadonlyMap<Series, number>, known: Known): Promise<void> {
    for (const series of list) this.#maskSeries(series);
    await this.#learnSources(list, known);
    const keyOf = (series: Series): string =>
      hashed(seriesKey(known.sources.get(sourceKey(maskResource(series.resource, this.#mask)))!, series));
    const keys = new Map(list.map((series) => [series, keyOf(series)]));
    const missing = [...keys.values()].filter((key) => !known.series.has(key));
    if (missing.length > 0) {
      // It may have been silent for days.
      const stored = await jsonOf<StoredSeries>(this.#database, `SELECT ${STORED} WHERE ${oneOf('key')}`, [
        JSON.stringify(missing)
      ]);
      // Another batch may have made it known meanwhile.
      for (const one of stored) if (!known.series.has(one[0])) note(known, one);
    }
    for (const series of list) {
      const found = this.#find(series, keys.get(series)!, asked.get(series)!, known);
      if (typeof found === 'string') this.#refused.set(series, found);
      else this.#remembered.set(series, found);
    }
  }

  #maskSeries(series: Series): void {
    if (this.#masked.has(series)) return;
    maskAttributes(series.attributes, { hashKey: this.#mask.hashKey, keepLiterals: false });
    this.#masked.add(series);
  }

  async #learnSources(list: readonly Series[], known: Known): Promise<void> {
    const missing = new Map<string, Resource>();
    for (const { resource } of list) {
      const masked = maskResource(resource, this.#mask);
      const key = sourceKey(masked);
      if (!known.sources.has(key)) missing.set(key, masked);
    }
    if (missing.size === 0) return;
    const stored = await jsonOf<[string, number]>(
      this.#database,
      `SELECT json_group_array(json_array(key, id)) FROM counter_sources WHERE ${oneOf('key')}`,
      [JSON.stringify([...missing.keys()])]
    );
    for (const [key, id] of stored) known.sources.set(key, id);
    for (const [key, { service, host, release, pid, attributes }] of missing) {
      if (known.sources.has(key)) continue;
      const id = known.nextSource++;
      known.sources.set(key, id);
      this.#freshSources.push({
        id,
        key,
        service,
        host,
        release,
        pid,
        attributes: JSON.stringify([...attributes])
      });
    }
  }

  #find(series: Series, key: string, atMs: number, known: Known): KnownSeries | string {
    const found = known.series.get(key);
    if (found) return found;
    const source = known.sources.get(sourceKey(maskResource(series.resource, this.#mask)))!;
    const { name, unit, kind } = series;
    if (known.series.size >= MAX_SERIES) return TOO_MANY_SERIES;
    if ((known.perMetric.get(metricOf(source, name)) ?? 0) >= MAX_PER_METRIC) return TOO_MANY_OF_METRIC;
    const id = known.nextSeries++;
    this.#freshSeries.push({
      id,
      key,
      sourceId: source,
      name,
      unit,
      kind,
      isDelta: series.isDelta ? 1 : 0,
      isMonotonic: series.isMonotonic ? 1 : 0,
      attributes: JSON.stringify([...series.attributes]),
      lastMs: atMs
    });
    return note(known, [key, id, atMs, source, name]);
  }

  /** Stores what is new; to be handed back where the transaction failed. */
  takeFresh(): { statements: InStatement[]; putBack: () => void } {
    const [sources, series] = [this.#freshSources, this.#freshSeries];
    this.#freshSources = [];
    this.#freshSeries = [];
    const statements: InStatement[] = [];
    if (sources.length > 0) statements.push(SOURCES.insert('INSERT OR IGNORE', sources));
    if (series.length > 0) statements.push(SERIES.insert('INSERT OR IGNORE', series));
    return {
      statements,
      putBack: () => {
        this.#freshSources = [...sources, ...this.#freshSources];
        this.#freshSeries = [...series, ...this.#freshSeries];
      }
    };
  }

  /** Series without a point for a day make room for others. Their points stay as long as points are kept. */
  async makeRoom(nowMs: number): Promise<void> {
    if (!this.#known.asked) return;
    const known = await this.#known.get();
    let gone = 0;
    for (const [key, { lastMs, metric }] of known.series)
      if (lastMs < nowMs - LIVE_MS) {
        known.series.delete(key);
        count(known.perMetric, metric, -1);
        gone++;
      }
    if (gone === 0) return;
    this.#remembered = new WeakMap();
    this.#refused = new WeakMap();
    // One that is not stored yet would be given a second number.
    if (this.#freshSources.length === 0) known.sources.clear();
  }
}

function note(known: Known, [key, id, lastMs, source, name]: StoredSeries): KnownSeries {
  const one: KnownSeries = { id, lastMs, metric: metricOf(source, name) };
  known.series.set(key, one);
  count(known.perMetric, one.metric, 1);
  return one;
}

const sourceKey = ({ key, attributes }: Resource): string => hashed(JSON.stringify([key, ...attributes]));
/** Keys are long, and only compared. */
const hashed = (text: string): string => createHash('sha256').update(text).digest('base64');
const metricOf = (source: number, name: string): string => `${source} ${name}`;
const count = (counts: Map<string, number>, key: string, by: number): void => {
  counts.set(key, (counts.get(key) ?? 0) + by);
};
