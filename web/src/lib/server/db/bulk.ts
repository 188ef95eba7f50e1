import type { InStatement } from '@libsql/client';

/**
 * One statement that inserts any number of rows: the rows travel as one JSON text, which is the fastest way into
 * SQLite through this client and takes the least memory.
 * @param jsonColumns columns that keep their value as JSON text.
 */
export function bulkInsert(
  verb: 'INSERT' | 'INSERT OR IGNORE' | 'INSERT OR REPLACE',
  table: string,
  columns: readonly string[],
  rows: readonly unknown[][],
  jsonColumns: readonly string[] = []
): InStatement {
  const values = columns
    .map((column, i) => `value${jsonColumns.includes(column) ? '->' : '->>'}${i}`)
    .join(', ');
  return {
    sql: `${verb} INTO ${table} (${columns.join(', ')}) SELECT ${values} FROM json_each(?)`,
    args: [JSON.stringify(rows)]
  };
}

/** A WHERE part: the column is one of the texts given as one JSON argument. */
export const oneOf = (column: string): string => `${column} IN (SELECT value FROM json_each(?))`;
