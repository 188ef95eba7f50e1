import type { InStatement } from '@libsql/client';
import { judge } from '@tromix/core/trace/keep-rules';
import { oneOf } from '../db/bulk';
import type { Database } from '../db/database';
import { keepFacts, loadKeepRules } from './keep-facts';
import { STEPS, type Step } from './rollup';

/** How long and how much is kept. */
export interface Retention {
  /** Requests and their spans, days. */
  days: number;
  /** Size of the database beyond which the oldest traces go, bytes. */
  maxBytes: number;
  /** Every request is kept for so long; only then do the keep rules decide. */
  graceMinutes: number;
}

/** How long roll-ups of each step are kept, days. What is older is read at a coarser step. */
export const ROLLUP_DAYS: Record<Step, number> = { 1: 8, 10: 32, 60: 100, 360: 400, 1440: 1100 };

const WATERMARK = 'keep-swept-us';
const US_PER_MINUTE = 60_000_000;
const US_PER_HOUR = 3_600_000_000;
const US_PER_DAY = 86_400_000_000;
/** Traces removed by one transaction: writing must not wait long. */
const REMOVED = 500;
const TRACE_TABLES = ['spans', 'requests', 'request_parts', 'findings', 'logs', 'pending_traces'];

/** With what else begins the table's key, so that no more is read than goes. */
const ROLLUP_TABLES = [
  { table: 'rollups', and: ' AND margin IN (0, 1, 2)' },
  { table: 'call_rollups', and: '' },
  { table: 'finding_rollups', and: ' AND margin IN (0, 1)' }
];

/** Removes what the keep rules and the retention let go of. Roll-ups go on counting it. */
export class Sweeper {
  readonly #database: Database;
  readonly #retention: Retention;

  constructor(database: Database, retention: Retention) {
    this.#database = database;
    this.#retention = retention;
  }

  /** @param hurry true when something else waits for the database: the rest is left for the next time. */
  async sweep(nowMs: number, hurry: () => boolean): Promise<number> {
    const nowUs = nowMs * 1000;
    let removed = await this.#byRules(nowUs, hurry);
    removed += await this.#byAge(nowUs, hurry);
    removed += await this.#bySize(hurry);
    await this.#rollups(nowMs);
    await this.#database.write([
      { sql: 'DELETE FROM counters WHERE at_us < ?', args: [nowUs - this.#retention.days * US_PER_DAY] }
    ]);
    return removed;
  }

  /** Judges one whole hour after another, so that "some of each endpoint an hour" means just that. */
  async #byRules(nowUs: number, hurry: () => boolean): Promise<number> {
    const hourOf = (us: number): number => Math.floor(us / US_PER_HOUR) * US_PER_HOUR;
    const until = hourOf(nowUs - this.#retention.graceMinutes * US_PER_MINUTE);
    const rules = await loadKeepRules(this.#database);
    let count = 0;
    for (let from = await this.#nextHour(); from < until && !hurry(); from = await this.#nextHour()) {
      if (rules.length > 0) {
        const facts = await keepFacts(this.#database, rules, from, from + US_PER_HOUR);
        const { traces } = judge(rules, facts);
        const gone = [...new Set(facts.map(({ traceId }) => traceId))].filter((id) => !traces.has(id));
        const removed = await this.#remove(gone, hurry);
        count += removed.count;
        if (!removed.complete) break;
      }
      await this.#setWatermark(from + US_PER_HOUR);
    }
    return count;
  }

  /** The first hour with requests that was not judged yet. */
  async #nextHour(): Promise<number> {
    const { rows } = await this.#database.query('SELECT min(start_us) FROM requests WHERE start_us >= ?', [
      await this.#watermark()
    ]);
    const first = rows[0][0];
    return first === null ? Infinity : Math.floor(Number(first) / US_PER_HOUR) * US_PER_HOUR;
  }

  async #byAge(nowUs: number, hurry: () => boolean): Promise<number> {
    const limit = nowUs - this.#retention.days * US_PER_DAY;
    let count = 0;
    while (!hurry()) {
      const ids = await this.#oldest(limit);
      if (ids.length === 0) break;
      count += (await this.#remove(ids, hurry)).count;
    }
    return count;
  }

  async #bySize(hurry: () => boolean): Promise<number> {
    let count = 0;
    while (!hurry() && (await this.#bytes()) > this.#retention.maxBytes) {
      const ids = await this.#oldest(Number.MAX_SAFE_INTEGER);
      if (ids.length === 0) break;
      count += (await this.#remove(ids, hurry)).count;
    }
    return count;
  }

  /** Bytes in use: pages that were freed are filled again before the file grows. */
  async #bytes(): Promise<number> {
    const { rows } = await this.#database.query(
      'SELECT (SELECT page_count FROM pragma_page_count()) - (SELECT freelist_count FROM pragma_freelist_count()), (SELECT page_size FROM pragma_page_size())'
    );
    return Number(rows[0][0]) * Number(rows[0][1]);
  }

  async #oldest(beforeUs: number): Promise<string[]> {
    const { rows } = await this.#database.query(
      `SELECT DISTINCT trace_id FROM (SELECT trace_id FROM requests WHERE start_us < ? ORDER BY start_us LIMIT ${REMOVED})`,
      [beforeUs]
    );
    return rows.map(([id]) => String(id));
  }

  async #remove(ids: readonly string[], hurry: () => boolean): Promise<{ count: number; complete: boolean }> {
    let count = 0;
    for (let at = 0; at < ids.length; at += REMOVED) {
      const list = JSON.stringify(ids.slice(at, at + REMOVED));
      await this.#database.write(
        TRACE_TABLES.map((table): InStatement => ({
          sql: `DELETE FROM ${table} WHERE ${oneOf('trace_id')}`,
          args: [list]
        }))
      );
      count += Math.min(REMOVED, ids.length - at);
      if (hurry()) return { count, complete: at + REMOVED >= ids.length };
    }
    return { count, complete: true };
  }

  async #rollups(nowMs: number): Promise<void> {
    const nowMinute = Math.floor(nowMs / 60_000);
    await this.#database.write(
      ROLLUP_TABLES.flatMap(({ table, and }) =>
        STEPS.map((step): InStatement => ({
          sql: `DELETE FROM ${table} WHERE step = ? AND at < ?${and}`,
          args: [step, Math.floor((nowMinute - ROLLUP_DAYS[step] * 1440) / step)]
        }))
      )
    );
  }

  async #watermark(): Promise<number> {
    const { rows } = await this.#database.query('SELECT value FROM settings WHERE key = ?', [WATERMARK]);
    return rows.length > 0 ? Number(rows[0][0]) : 0;
  }

  #setWatermark(us: number): Promise<void> {
    return this.#database.write([
      { sql: 'INSERT OR REPLACE INTO settings (key, value) VALUES (?, ?)', args: [WATERMARK, String(us)] }
    ]);
  }
}
