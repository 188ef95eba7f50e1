import type { Client, InStatement, InValue } from '@libsql/client';

/** A statement failed in the database itself: locked, full, damaged. What it was about to store is still in hand. */
export class DatabaseError extends Error {
  /** True where the same statements would fail again: it is their values that the database does not take. */
  readonly refused =
    /SQLITE_(?:CONSTRAINT|MISMATCH|TOOBIG|RANGE)|constraint failed|datatype mismatch|too big/.test(
      this.message
    );
  /** True where the disk has no room. */
  readonly full = /SQLITE_FULL|disk is full|ENOSPC/.test(this.message);
}

/** Rows as lists of values, in the order of the selected columns. */
export interface Table {
  columns: string[];
  rows: unknown[][];
}

/** The little this project asks of a database, the same within a thread and across threads. */
export interface Database {
  query(sql: string, args?: InValue[]): Promise<Table>;
  /** Runs statements as one transaction. @throws DatabaseError; then none of them took effect. */
  write(statements: InStatement[]): Promise<void>;
  close(): Promise<void>;
}

/** A database in this thread. Its client is synchronous underneath for a file: it blocks the thread it runs in. */
export class LocalDatabase implements Database {
  readonly #client: Client;

  constructor(client: Client) {
    this.#client = client;
  }

  query(sql: string, args: InValue[] = []): Promise<Table> {
    return worded(async () => {
      const { rows, columns } = await this.#client.execute({ sql, args });
      return { columns, rows: rows.map((row) => columns.map((_, i) => plain(row[i]))) };
    });
  }

  write(statements: InStatement[]): Promise<void> {
    return worded(async () => {
      await this.#client.batch(statements, 'write');
    });
  }

  close(): Promise<void> {
    this.#client.close();
    return Promise.resolve();
  }
}

/** Integers beyond 2^53 come as the nearest number: one such row must not make a whole answer fail. */
const plain = (value: unknown): unknown => (typeof value === 'bigint' ? Number(value) : value);

async function worded<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (cause) {
    throw new DatabaseError((cause as Error).message, { cause });
  }
}

/** Rows of a statement as plain objects. The caller names their type; the columns are this project's own. */
export async function objectsOf<Row>(database: Database, sql: string, args: InValue[] = []): Promise<Row[]> {
  const { rows, columns } = await database.query(sql, args);
  return rows.map((row) => Object.fromEntries(columns.map((column, i) => [column, row[i]])) as Row);
}

/** The one value of a statement that gives its rows as one JSON list: many times faster than row by row. */
export async function jsonOf<Row>(database: Database, sql: string, args: InValue[] = []): Promise<Row[]> {
  return (await jsonValue(database, sql, args)) as Row[];
}

/**
 * The JSON text that a statement selects, parsed. It comes as bytes: the client would end the whole process at a stored text that is
 * no UTF-8, while bytes are read whatever they hold.
 */
export async function jsonValue(database: Database, sql: string, args: InValue[] = []): Promise<unknown> {
  return JSON.parse(new TextDecoder().decode(await bytesValue(database, sql, args)));
}

/** The text that a statement selects, as its bytes. */
export async function bytesValue(database: Database, sql: string, args: InValue[] = []): Promise<Uint8Array> {
  const { rows } = await database.query(`SELECT CAST((${sql}) AS BLOB)`, args);
  return new Uint8Array(rows[0][0] as ArrayBuffer);
}
