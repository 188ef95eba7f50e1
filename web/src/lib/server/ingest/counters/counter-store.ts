import type { InStatement } from '@libsql/client';
import type { MaskOptions } from '@tromix/core/calls/mask';
import type { Series } from '@tromix/core/counters/series';
import type { MetricBatch } from '@tromix/core/formats/otlp/metric-points';
import { maskText } from '@tromix/core/mask/text';
import { encodeBatch, type NumberedPoints } from '../../counters/batch';
import { jsonRows } from '../../db/bulk';
import type { Database } from '../../db/database';
import { Turns } from '../../turns';
import { Busy } from '../accepted';
import { rollUp } from './roll-up';
import { sealWaiting } from './seal';
import { SeriesBook } from './series-book';

/** Points that wait to be put into blocks beyond which batches are turned away for the moment. */
const MAX_WAITING = 3_000_000;
/** So many are put into blocks at once, and they are when they have waited so long, milliseconds. */
const MANY_WAITING = 300_000;
const LONG_WAITING_MS = 120_000;
/** A clock may be wrong by so much, milliseconds: later points are of no present. */
const MAX_AHEAD_MS = 3_600_000;
const DAY_MS = 86_400_000;

/** What is told of points that are turned away. */
export interface CounterAnswer {
  taken: number;
  rejected: { reason: string; count: number }[];
}

/** Counters over time: batches are stored as they come, and put into the blocks of their series soon afterwards. */
export class CounterStore {
  readonly #database: Database;
  readonly #book: SeriesBook;
  readonly #keepDays: number;
  /** Blocks are put together and summed up in turns: each reads them and writes them back. */
  readonly #turns = new Turns();
  /** Points that wait, and since when, as far as this writer took them. */
  #waiting = 0;
  #waitingSinceMs = 0;

  /** @param keepDays how long points are kept */
  constructor(database: Database, mask: MaskOptions, keepDays: number) {
    this.#database = database;
    this.#book = new SeriesBook(database, mask);
    this.#keepDays = keepDays;
  }

  /**
   * Stores a batch.
   * @param oldestMs epoch milliseconds: older points are turned away
   * @throws Busy when too much is waiting already; DatabaseError, then nothing is stored.
   */
  async add(
    { numbers, histograms, rejected }: MetricBatch,
    nowMs: number,
    oldestMs = nowMs - this.#keepDays * DAY_MS
  ): Promise<CounterAnswer> {
    if (this.#waiting > MAX_WAITING) throw new Busy();
    const refused = new Refused(rejected);
    const newestMs = nowMs + MAX_AHEAD_MS;
    const isOfPresent = (point: { series: Series; atMs: number }): boolean => {
      if (point.atMs < oldestMs)
        refused.add(point.series, `it is older than points are kept, ${this.#keepDays} days`);
      else if (point.atMs > newestMs) refused.add(point.series, 'its time is more than an hour ahead');
      else return true;
      return false;
    };
    const asked = new Map<Series, number>();
    const present = [numbers.filter(isOfPresent), histograms.filter(isOfPresent)] as const;
    for (const { series, atMs } of present.flat()) if (!(asked.get(series)! > atMs)) asked.set(series, atMs);
    const ids = await this.#book.numbersOf(asked);
    const numbered = <Point extends { series: Series }>(
      points: readonly Point[]
    ): { id: number; point: Point }[] =>
      points.flatMap((point) => {
        const id = ids.get(point.series)!;
        if (typeof id === 'number') return [{ id, point }];
        refused.add(point.series, id);
        return [];
      });
    const taken: NumberedPoints = { numbers: numbered(present[0]), histograms: numbered(present[1]) };
    const points = taken.numbers.length + taken.histograms.length;
    const { statements, putBack } = this.#book.takeFresh();
    if (points > 0) {
      const data = encodeBatch(taken);
      statements.push({
        sql: 'INSERT INTO counter_batches (points, data) VALUES (?, ?)',
        args: [points, data]
      });
    }
    statements.push(...refused.statements(nowMs));
    if (statements.length > 0)
      await this.#database.write(statements).catch((cause: unknown) => {
        putBack();
        throw cause;
      });
    if (this.#waiting === 0) this.#waitingSinceMs = nowMs;
    this.#waiting += points;
    return { taken: points, rejected: refused.list };
  }

  /** Takes up what an earlier writer left waiting. */
  async open(): Promise<void> {
    const { rows } = await this.#database.query('SELECT coalesce(sum(points), 0) FROM counter_batches');
    this.#waiting = Number(rows[0][0]);
  }

  /** Puts points into blocks that are many or have waited long. @param all whatever waits */
  seal(nowMs: number, all = false): Promise<void> {
    return this.#turns.take('blocks', async () => {
      const isDue = this.#waiting >= MANY_WAITING || nowMs - this.#waitingSinceMs >= LONG_WAITING_MS;
      if (this.#waiting === 0 || (!all && !isDue)) return;
      do {
        this.#waitingSinceMs = nowMs;
        const sealed = await sealWaiting(this.#database);
        this.#waiting = sealed === 0 ? 0 : Math.max(0, this.#waiting - sealed);
      } while (this.#waiting >= (all ? 1 : MANY_WAITING));
    });
  }

  /** Sums up what is over. @param hurry asked between pieces: true puts off the rest */
  rollUp(nowMs: number, hurry: () => boolean): Promise<void> {
    return this.#turns.take('blocks', () => rollUp(this.#database, nowMs, hurry));
  }

  /** Series that were silent for long make room for others. */
  makeRoom(nowMs: number): Promise<void> {
    return this.#book.makeRoom(nowMs);
  }
}

/** Points turned away, by reason for the sender, and by metric and sender for who looks at what is missing. */
class Refused {
  readonly #byReason = new Map<string, number>();
  readonly #rows = new Map<
    string,
    { name: string; service: string; host: string; reason: string; points: number }
  >();

  constructor(before: CounterAnswer['rejected']) {
    for (const { reason, count } of before) this.#byReason.set(reason, count);
  }

  add(series: Series, reason: string): void {
    this.#byReason.set(reason, (this.#byReason.get(reason) ?? 0) + 1);
    const [service, host] = [series.resource.service, series.resource.host].map((name) =>
      maskText(name, 'name')
    );
    const key = JSON.stringify([series.name, service, host, reason]);
    const row = this.#rows.get(key);
    if (row) row.points++;
    else if (this.#rows.size < MAX_REFUSALS)
      this.#rows.set(key, { name: series.name, service, host, reason, points: 1 });
  }

  get list(): CounterAnswer['rejected'] {
    return [...this.#byReason].map(([reason, count]) => ({ reason, count }));
  }

  statements(nowMs: number): InStatement[] {
    if (this.#rows.size === 0) return [];
    const rows = [...this.#rows.values()].map(({ name, service, host, reason, points }) => [
      name,
      service,
      host,
      reason,
      points
    ]);
    return [
      {
        sql: `INSERT INTO counter_refusals (name, service, host, reason, points, at_ms)
          SELECT value->>0, value->>1, value->>2, value->>3, value->>4, ?2 FROM json_each(?1) WHERE true
          ON CONFLICT DO UPDATE SET points = points + excluded.points, at_ms = excluded.at_ms`,
        args: [jsonRows(rows), nowMs]
      }
    ];
  }
}

/** Different refusals of one batch that are noted. */
const MAX_REFUSALS = 200;
