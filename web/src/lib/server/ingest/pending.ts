import type { InStatement } from '@libsql/client';
import { jsonOf, type Database } from '../db/database';

/** Traces looked at in one go when those without requests are sought. */
const SOUGHT = 1000;

/** The marks of traces that are stored and not yet booked. No two marks are alike, in this run or another. */
export class PendingMarks {
  #generation = Date.now() * 1000;

  /** Marks traces as pending, anew where they are. */
  mark(ids: Iterable<string>): InStatement {
    return {
      sql: `INSERT INTO pending_traces (trace_id, generation) SELECT value, ?2 FROM json_each(?1) WHERE true
        ON CONFLICT (trace_id) DO UPDATE SET generation = excluded.generation`,
      args: [JSON.stringify([...ids]), ++this.#generation]
    };
  }
}

export const pendingIds = (database: Database): Promise<string[]> =>
  jsonOf<string>(database, 'SELECT json_group_array(trace_id) FROM pending_traces');

/** Those of some traces of which spans are stored. */
export const storedTraces = (database: Database, ids: ReadonlySet<string>): Promise<string[]> =>
  jsonOf<string>(
    database,
    `SELECT json_group_array(j.value) FROM json_each(?) j WHERE EXISTS (SELECT 1 FROM spans s WHERE s.trace_id = j.value)`,
    [JSON.stringify([...ids])]
  );

/** Traces whose spans are stored, that have no request, and that no mark names, some at a time: what an earlier version lost track of. */
export async function* forgottenTraces(database: Database): AsyncGenerator<string[]> {
  for (let last = ''; ;) {
    const traces = await jsonOf<[string, number]>(
      database,
      `WITH RECURSIVE t(id, n) AS (
          SELECT (SELECT min(trace_id) FROM spans WHERE trace_id > ?), 1
          UNION ALL SELECT (SELECT min(trace_id) FROM spans WHERE trace_id > t.id), n + 1 FROM t
            WHERE t.id IS NOT NULL AND n < ${SOUGHT})
        SELECT json_group_array(json_array(id,
            EXISTS (SELECT 1 FROM requests r WHERE r.trace_id = t.id)
            OR EXISTS (SELECT 1 FROM background_work b WHERE b.trace_id = t.id)
            OR EXISTS (SELECT 1 FROM pending_traces p WHERE p.trace_id = t.id)
            OR EXISTS (SELECT 1 FROM set_aside a WHERE a.kind = 'trace' AND a.id = t.id AND a.aside = 1)) ORDER BY id)
          FROM t WHERE id IS NOT NULL`,
      [last]
    );
    if (traces.length === 0) return;
    last = traces[traces.length - 1][0];
    yield traces.filter(([, known]) => known === 0).map(([id]) => id);
  }
}

/** Notes traces that are older than requests are kept. @param source names the batch they came in */
export const oldTraces = (ids: Iterable<string>, source: string): InStatement => ({
  sql: `INSERT INTO old_traces (trace_id, received_at_us, source, keep) SELECT value, ?2, ?3, 0 FROM json_each(?1) WHERE true
    ON CONFLICT (trace_id) DO UPDATE SET received_at_us = excluded.received_at_us, source = excluded.source`,
  args: [JSON.stringify([...ids]), Date.now() * 1000, source]
});
