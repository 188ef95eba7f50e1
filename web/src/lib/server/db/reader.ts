import type { Client, InValue } from '@libsql/client';
import { settings } from '../settings';
import { callWriter } from '../workers';
import { openDatabase } from './client';

let client: Client | undefined;

/** The server thread's own connection, for short indexed reads. The writer has migrated the database before it opens. */
export async function reader(): Promise<Client> {
  if (!client) {
    await callWriter(() => Promise.resolve());
    client ??= openDatabase(settings().databaseUrl);
  }
  return client;
}

/** Rows of a statement as plain objects. The caller names their type; the columns are this project's own. */
export async function select<Row>(sql: string, args: InValue[] = []): Promise<Row[]> {
  const { rows, columns } = await (await reader()).execute({ sql, args });
  return rows.map((row) => Object.fromEntries(columns.map((column, i) => [column, row[i]])) as Row);
}
