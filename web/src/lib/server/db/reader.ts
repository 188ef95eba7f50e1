import type { InValue } from '@libsql/client';
import { Once } from '../once';
import { callWriter, readerDatabase } from '../workers';
import { jsonOf, objectsOf, type Database } from './database';

const migrated = new Once(() => callWriter(() => Promise.resolve()));

/** The connection pages are read through, in a thread of its own. The writer has migrated the database before it opens. */
export async function reader(): Promise<Database> {
  await migrated.get();
  return readerDatabase();
}

/** Rows of a statement as plain objects. */
export const select = async <Row>(sql: string, args: InValue[] = []): Promise<Row[]> =>
  objectsOf<Row>(await reader(), sql, args);

/** Rows of a statement that selects one `json_group_array`. */
export const selectJson = async <Row>(sql: string, args: InValue[] = []): Promise<Row[]> =>
  jsonOf<Row>(await reader(), sql, args);
