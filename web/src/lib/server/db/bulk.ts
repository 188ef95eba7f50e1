import type { InStatement } from '@libsql/client';
import { wellFormed } from '@tromix/core/text/well-formed';

export type Verb = 'INSERT' | 'INSERT OR IGNORE' | 'INSERT OR REPLACE';

/**
 * One statement that inserts any number of rows: the rows travel as one JSON text, which is the fastest way into
 * SQLite through this client and takes the least memory. A list or an object is stored as its JSON text; where there are
 * very many, a text made beforehand spares SQLite writing it.
 */
export function bulkInsert(
  verb: Verb,
  table: string,
  columns: readonly string[],
  rows: readonly unknown[][]
): InStatement {
  const values = columns.map((_, i) => `value->>${i}`).join(', ');
  return {
    sql: `${verb} INTO ${table} (${columns.join(', ')}) SELECT ${values} FROM json_each(?)`,
    args: [jsonRows(rows)]
  };
}

/**
 * Rows as one JSON text that SQLite may take apart. Half a surrogate pair taken out of it would be no UTF-8, and the client aborts the
 * process when such a text is read: readers of evidence leave none, and this makes sure of it.
 */
export function jsonRows(rows: readonly unknown[]): string {
  const text = JSON.stringify(rows);
  // JSON.stringify escapes just what is not well-formed so, and U+0000.
  if (!text.includes('\\ud') && !text.includes('\\u0000')) return text;
  return JSON.stringify(rows, (_, value: unknown) => (typeof value === 'string' ? wellFormed(value) : value));
}

/** A WHERE part: the column is one of the texts given as one JSON argument. */
export const oneOf = (column: string): string => `${column} IN (SELECT value FROM json_each(?))`;
