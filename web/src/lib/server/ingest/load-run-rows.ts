import type { InStatement, InValue } from '@libsql/client';
import { getTableColumns } from 'drizzle-orm';
import { jsonOf, type Database } from '../db/database';
import { loadRuns } from '../db/schema';

/** A row of `load_runs`; its key tells whether it is there already. */
export type LoadRunRecord = Omit<typeof loadRuns.$inferInsert, 'id'>;

/** Adds a row, or changes what it names of the row with its key. */
export function putLoadRunRow(run: LoadRunRecord): InStatement {
  const columns = getTableColumns(loadRuns);
  const given = Object.entries(run).filter(([, value]) => value !== undefined);
  const names = given.map(([field]) => columns[field as keyof LoadRunRecord].name);
  return {
    sql: `INSERT INTO load_runs (${names.join(', ')}) VALUES (${names.map(() => '?').join(', ')})
      ON CONFLICT (key) DO UPDATE SET ${names.map((name) => `${name} = excluded.${name}`).join(', ')}`,
    args: given.map(([, value]) => value as InValue)
  };
}

/** Ids of traces that a run caused, but whose requests are not known as its own. Behind every hexadecimal digit stands `g`. */
export const tracesNotYetOf = (database: Database, key: string): Promise<string[]> =>
  jsonOf<string>(
    database,
    "SELECT json_group_array(DISTINCT trace_id) FROM requests WHERE trace_id >= ?1 AND trace_id < ?1 || 'g' AND run = 0",
    [key]
  );
