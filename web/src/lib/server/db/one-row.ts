import type { InStatement, InValue } from '@libsql/client';
import { getTableColumns, getTableName } from 'drizzle-orm';
import type { SQLiteTable } from 'drizzle-orm/sqlite-core';

// Statements about one row, by the names of the schema.

/** The columns that a row names by the names of the schema, and their values. */
export function namedIn<T extends SQLiteTable>(
  table: T,
  row: Partial<T['$inferInsert']>
): { names: string[]; values: InValue[] } {
  const columns = getTableColumns(table);
  const given = Object.entries(row).filter(([, value]) => value !== undefined);
  return {
    names: given.map(([key]) => `"${columns[key].name}"`),
    values: given.map(([, value]) => value as InValue)
  };
}

/** A row of a table. What it does not name has the column’s default, unlike rows in bulk. */
export function insert<T extends SQLiteTable>(
  verb: 'INSERT' | 'INSERT OR REPLACE',
  table: T,
  row: T['$inferInsert']
): InStatement {
  const { names, values } = namedIn(table, row);
  return {
    sql: `${verb} INTO ${getTableName(table)} (${names.join(', ')}) VALUES (${names.map(() => '?').join(', ')})`,
    args: values
  };
}

/** Changes the columns named in a row of a table, by its id. */
export function update<T extends SQLiteTable>(
  table: T,
  id: string,
  row: Partial<T['$inferInsert']>
): InStatement {
  const { names, values } = namedIn(table, row);
  return {
    sql: `UPDATE ${getTableName(table)} SET ${names.map((name) => `${name} = ?`).join(', ')} WHERE id = ?`,
    args: [...values, id]
  };
}
