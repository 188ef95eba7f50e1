import type { InStatement } from '@libsql/client';
import { judge } from '@tromix/core/trace/keep-rules';
import { oneOf } from '../db/bulk';
import type { Database } from '../db/database';
import { oldestPointsMs, removeOldCounters, removePoints } from './counters/remove-old';
import { keepFacts, loadKeepRules } from './keep-facts';
import { oldestLoads, removeLoads } from './pages/remove-loads';
import { ROLLUP_DAYS, STEPS } from '$lib/roll-up-steps';

/** How long and how much is kept. */
export interface Retention {
  /** Requests and their spans, days. */
  days: number;
  /** Size of the database beyond which the oldest traces go, bytes. */
  maxBytes: number;
  /** Every request is kept for so long; only then do the keep rules decide. */
  graceMinutes: number;
  /** Log records that name no trace, days. */
  logDays: number;
  /** Points of counters, days. Their sums a minute and an hour stay longer. */
  counterDays: number;
}

const WATERMARK = 'keep-swept-us';
const US_PER_MINUTE = 60_000_000;
const US_PER_HOUR = 3_600_000_000;
const US_PER_DAY = 86_400_000_000;
/** Traces removed by one transaction: writing must not wait long. */
const REMOVED = 500;
const REMOVED_LOGS = 5000;
/** Pieces of background work kept. */
export const MAX_BACKGROUND = 20_000;
const TRACE_TABLES = [
  'spans',
  'requests',
  'background_work',
  'request_parts',
  'findings',
  'failures',
  'logs',
  'pending_traces',
  'old_traces'
];
/** Removed traces whose ids are remembered, so that none is counted again when it is sent again. */
const MAX_REMEMBERED = 4_000_000;

const ROLLUP_TABLES = [
  'rollups',
  'call_rollups',
  'outgoing_rollups',
  'finding_rollups',
  'failure_rollups',
  'page_rollups'
];
/** The key goes on with the margin: those of everything, and those of load runs. No more is read than goes. */
const MARGINS = "margin IN (SELECT value FROM json_each('[0,1,2]') UNION SELECT -id FROM load_runs)";

/** Removes what the keep rules and the retention let go of. Roll-ups go on counting it. */
export class Sweeper {
  readonly #database: Database;
  readonly #retention: Retention;

  constructor(database: Database, retention: Retention) {
    this.#database = database;
    this.#retention = retention;
  }

  /**
   * @param trusted false while the clock cannot be trusted: nothing is judged or removed by its word then.
   * @param hurry true when something else waits for the database: the rest is left for the next time.
   */
  async sweep(nowMs: number, trusted: boolean, hurry: () => boolean): Promise<number> {
    const nowUs = nowMs * 1000;
    let removed = 0;
    if (trusted) {
      removed += await this.#byRules(nowUs, hurry);
      removed += await this.#byAge(nowUs, hurry);
    }
    removed += await this.#background(hurry);
    removed += await this.#bySize(nowUs, hurry);
    if (trusted) await this.#sums(nowMs);
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
        const pinned = await this.#pinned();
        const gone = [...new Set(facts.map(({ traceId }) => traceId))].filter(
          (id) => !traces.has(id) && !pinned.has(id)
        );
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
      const ids = await this.#oldest(limit, nowUs);
      if (ids.length === 0) break;
      count += (await this.#remove(ids, hurry)).count;
    }
    while (!hurry() && (await this.#removeLoads(limit)) > 0);
    const logLimit = nowUs - this.#retention.logDays * US_PER_DAY;
    while (!hurry() && (await this.#removeLogs(logLimit)) > 0);
    await this.#database.write([
      {
        // Their trace has spans no more, or never had any.
        sql: `DELETE FROM logs WHERE trace_id <> '' AND at_us < ? AND NOT EXISTS (SELECT 1 FROM spans s WHERE s.trace_id = logs.trace_id)`,
        args: [limit]
      }
    ]);
    return count + (await this.#setAside(limit, hurry));
  }

  /** Some of the oldest page loads. @returns how many went */
  async #removeLoads(beforeUs: number): Promise<number> {
    const ids = await oldestLoads(this.#database, beforeUs);
    if (ids.length > 0) await this.#database.write(removeLoads(ids));
    return ids.length;
  }

  /** Some of the oldest log records that belong to no trace, and the failures they told of. @returns how many records went */
  async #removeLogs(beforeUs: number): Promise<number> {
    const { rows } = await this.#database.query(
      `SELECT max(at_us), count(*) FROM (SELECT at_us FROM logs WHERE trace_id = '' AND span_id = '' AND at_us < ? ORDER BY at_us LIMIT ${REMOVED_LOGS})`,
      [beforeUs]
    );
    const [lastUs, count] = rows[0].map(Number);
    if (count > 0)
      await this.#database.write([
        { sql: "DELETE FROM logs WHERE trace_id = '' AND span_id = '' AND at_us <= ?", args: [lastUs] },
        {
          sql: "DELETE FROM failures WHERE trace_id = '' AND span_id = '' AND at_span_id = '' AND start_us <= ?",
          args: [lastUs]
        }
      ]);
    return count;
  }

  /** Traces that were set aside have no request to be found by. */
  async #setAside(limit: number, hurry: () => boolean): Promise<number> {
    const { rows } = await this.#database.query(
      "SELECT id FROM set_aside WHERE kind = 'trace' AND at_us < ? LIMIT 100",
      [limit]
    );
    if (rows.length === 0) return 0;
    const ids = rows.map(([id]) => String(id));
    const { count } = await this.#remove(ids, hurry);
    await this.#database.write([
      { sql: `DELETE FROM set_aside WHERE kind = 'trace' AND ${oneOf('id')}`, args: [JSON.stringify(ids)] }
    ]);
    return count;
  }

  /** Background work comes without end where every file read is a root span: the newest of it is enough. */
  async #background(hurry: () => boolean): Promise<number> {
    const { rows } = await this.#database.query(
      `SELECT DISTINCT trace_id FROM (SELECT trace_id FROM background_work ORDER BY start_us DESC LIMIT ${10 * REMOVED} OFFSET ${MAX_BACKGROUND}) b
        WHERE NOT EXISTS (SELECT 1 FROM requests r WHERE r.trace_id = b.trace_id)`
    );
    return (
      await this.#remove(
        rows.map(([id]) => String(id)),
        hurry
      )
    ).count;
  }

  async #bySize(nowUs: number, hurry: () => boolean): Promise<number> {
    let count = 0;
    while (!hurry() && (await this.#bytes()) > this.#retention.maxBytes) {
      if (await this.#olderPoints()) continue;
      const ids = await this.#oldest(Number.MAX_SAFE_INTEGER, nowUs);
      const logs = await this.#removeLogs(Number.MAX_SAFE_INTEGER);
      const loads = await this.#removeLoads(Number.MAX_SAFE_INTEGER);
      if (ids.length === 0 && logs === 0 && loads === 0) break;
      count += (await this.#remove(ids, hurry)).count;
    }
    return count;
  }

  /** Points of counters go where they are older than the oldest request, so that neither crowds the other out. @returns whether any went */
  async #olderPoints(): Promise<boolean> {
    const oldestMs = await oldestPointsMs(this.#database);
    if (oldestMs === null) return false;
    const { rows } = await this.#database.query('SELECT min(start_us) FROM requests');
    const firstUs = rows[0][0];
    if (firstUs !== null && Number(firstUs) < oldestMs * 1000) return false;
    await this.#database.write(removePoints(oldestMs));
    return true;
  }

  /** Bytes in use: pages that were freed are filled again before the file grows. */
  async #bytes(): Promise<number> {
    const { rows } = await this.#database.query(
      'SELECT (SELECT page_count FROM pragma_page_count()) - (SELECT freelist_count FROM pragma_freelist_count()), (SELECT page_size FROM pragma_page_size())'
    );
    return Number(rows[0][0]) * Number(rows[0][1]);
  }

  /** Traces that a case stands on. */
  async #pinned(): Promise<Set<string>> {
    const { rows } = await this.#database.query("SELECT ref FROM case_evidence WHERE kind = 'trace'");
    return new Set(rows.map(([id]) => String(id)));
  }

  /** The oldest traces, but for those that came old: they stay for the grace time, or for good. */
  async #oldest(beforeUs: number, nowUs: number): Promise<string[]> {
    const graceUs = nowUs - this.#retention.graceMinutes * US_PER_MINUTE;
    const oldestOf = (table: string): string =>
      `SELECT trace_id, start_us FROM ${table} r WHERE start_us < ?
        AND NOT EXISTS (SELECT 1 FROM case_evidence c WHERE c.kind = 'trace' AND c.ref = r.trace_id)
        AND NOT EXISTS (SELECT 1 FROM old_traces o WHERE o.trace_id = r.trace_id AND (o.keep = 1 OR o.received_at_us > ?))
        ORDER BY start_us LIMIT ${REMOVED}`;
    const { rows } = await this.#database.query(
      `SELECT DISTINCT trace_id FROM (
        SELECT * FROM (${oldestOf('requests')}) UNION ALL SELECT * FROM (${oldestOf('background_work')})
        ORDER BY start_us LIMIT ${REMOVED})`,
      [beforeUs, graceUs, beforeUs, graceUs]
    );
    return rows.map(([id]) => String(id));
  }

  async #remove(ids: readonly string[], hurry: () => boolean): Promise<{ count: number; complete: boolean }> {
    let count = 0;
    for (let at = 0; at < ids.length; at += REMOVED) {
      const list = JSON.stringify(ids.slice(at, at + REMOVED));
      await this.#database.write([
        {
          sql: 'INSERT OR IGNORE INTO removed_traces (trace_id) SELECT unhex(value) FROM json_each(?)',
          args: [list]
        },
        ...TRACE_TABLES.map((table): InStatement => ({
          sql: `DELETE FROM ${table} WHERE ${oneOf('trace_id')}`,
          args: [list]
        }))
      ]);
      count += Math.min(REMOVED, ids.length - at);
      if (hurry()) return { count, complete: at + REMOVED >= ids.length };
    }
    return { count, complete: true };
  }

  /** Removes old sums and counters, and the ids of what was removed longest ago. */
  async #sums(nowMs: number): Promise<void> {
    const nowMinute = Math.floor(nowMs / 60_000);
    await this.#database.write([
      ...removeOldCounters(nowMs, this.#retention.counterDays),
      {
        sql: `DELETE FROM removed_traces WHERE id <= (SELECT max(id) FROM removed_traces) - ${MAX_REMEMBERED}`,
        args: []
      },
      ...ROLLUP_TABLES.flatMap((table) =>
        STEPS.map((step): InStatement => ({
          sql: `DELETE FROM ${table} WHERE step = ? AND ${MARGINS} AND at < ?`,
          args: [step, Math.floor((nowMinute - ROLLUP_DAYS[step] * 1440) / step)]
        }))
      )
    ]);
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
