import type { InStatement } from '@libsql/client';
import { oneOf } from '../../db/bulk';
import type { Database } from '../../db/database';

/** Loads removed by one transaction: writing must not wait long. */
const REMOVED = 500;

/** The oldest loads that began, and came, before a moment, but for those a case stands on. */
export async function oldestLoads(database: Database, beforeUs: number): Promise<string[]> {
  const { rows } = await database.query(
    `SELECT trace_id FROM page_loads l WHERE start_us < ?1 AND received_us < ?1
      AND NOT EXISTS (SELECT 1 FROM case_evidence c WHERE c.kind = 'trace' AND c.ref = l.trace_id)
      ORDER BY start_us LIMIT ${REMOVED}`,
    [beforeUs]
  );
  return rows.map(([id]) => String(id));
}

/** Removes loads, and which requests they asked for. The sums go on counting them. */
export function removeLoads(ids: readonly string[]): InStatement[] {
  const list = JSON.stringify(ids);
  return [
    { sql: `DELETE FROM page_loads WHERE ${oneOf('trace_id')}`, args: [list] },
    { sql: `DELETE FROM page_asks WHERE ${oneOf('load_id')}`, args: [list] }
  ];
}
