import type { InStatement } from '@libsql/client';
import { getTableColumns, getTableName, type InferInsertModel, type InferSelectModel } from 'drizzle-orm';
import type { SQLiteTable } from 'drizzle-orm/sqlite-core';
import { bulkInsert, type Verb } from './bulk';

/** How rows of a table travel in bulk: as lists, always in one order, of values that the schema names. */
export interface Rows<Insert, Select> {
  /** Any number of rows in one statement. Lists and objects are stored as JSON; what a row does not name is NULL. */
  insert: (verb: Verb, rows: readonly Insert[]) => InStatement;
  /** The columns for a SELECT, of the table under another name: `r.trace_id, r.span_id`. */
  select: (alias: string) => string;
  /** A row of such a SELECT by the names of the schema. */
  read: (row: ArrayLike<unknown>) => Select;
  /** How many columns there are: what else was selected stands behind them. */
  width: number;
}

/**
 * Rows of a table in bulk, past the ORM, which takes several times as long.
 * @param keys columns that take part, by their names in the schema; else all
 */
export function rowsOf<T extends SQLiteTable, K extends keyof InferSelectModel<T> & string>(
  table: T,
  keys?: readonly K[]
): Rows<Pick<InferInsertModel<T>, K & keyof InferInsertModel<T>>, Pick<InferSelectModel<T>, K>> {
  const columns = getTableColumns(table);
  const taken = keys ?? (Object.keys(columns) as K[]);
  const names = taken.map((key) => columns[key].name);
  return {
    insert: (verb, rows) =>
      bulkInsert(
        verb,
        getTableName(table),
        names,
        rows.map((row) => taken.map((key) => (row as Record<string, unknown>)[key] ?? null))
      ),
    select: (alias) => names.map((name) => `${alias}.${name}`).join(', '),
    read: (row) => Object.fromEntries(taken.map((key, i) => [key, row[i]])) as Pick<InferSelectModel<T>, K>,
    width: taken.length
  };
}

/** All columns of a table but some, by their names in the schema. */
export const columnsBut = <T extends SQLiteTable, K extends keyof InferSelectModel<T> & string>(
  table: T,
  ...left: K[]
): Exclude<keyof InferSelectModel<T> & string, K>[] =>
  (Object.keys(getTableColumns(table)) as (keyof InferSelectModel<T> & string)[]).filter(
    (key): key is Exclude<keyof InferSelectModel<T> & string, K> => !left.includes(key as K)
  );
