import type { InStatement } from '@libsql/client';

/**
 * One statement that inserts any number of rows: the rows travel as one JSON text, which is the fastest way into
 * SQLite through this client and takes the least memory. A list or an object is stored as its JSON text; where there are
 * very many, a text made beforehand spares SQLite writing it.
 */
export function bulkInsert(
  verb: 'INSERT' | 'INSERT OR IGNORE' | 'INSERT OR REPLACE',
  table: string,
  columns: readonly string[],
  rows: readonly unknown[][]
): InStatement {
  const values = columns.map((_, i) => `value->>${i}`).join(', ');
  return {
    sql: `${verb} INTO ${table} (${columns.join(', ')}) SELECT ${values} FROM json_each(?)`,
    args: [JSON.stringify(rows)]
  };
}

/** A WHERE part: the column is one of the texts given as one JSON argument. */
export const oneOf = (column: string): string => `${column} IN (SELECT value FROM json_each(?))`;
