import type { InStatement, InValue } from '@libsql/client';
import { ThreadEnded } from '../thread';
import { DatabaseError, type Database, type Table } from './database';

/** A question that ends its thread so often is not asked again. */
const MAX_DEATHS = 2;
const MAX_KNOWN = 1000;

/** A database that is only read, in a thread: a question it dies of twice is refused in words, until the server is started anew. */
export class GuardedReads implements Database {
  readonly #database: Database;
  readonly #deaths = new Map<string, number>();

  constructor(database: Database) {
    this.#database = database;
  }

  async query(sql: string, args: InValue[] = []): Promise<Table> {
    const key = JSON.stringify([sql, args.map(String)]);
    if ((this.#deaths.get(key) ?? 0) >= MAX_DEATHS)
      throw new DatabaseError(
        'Answering this ended the thread that reads the database, twice. It is not tried again until the server is started anew.'
      );
    try {
      return await this.#database.query(sql, args);
    } catch (cause) {
      // Questions are answered in turn: the thread died of the one that had waited longest.
      if (cause instanceof ThreadEnded && cause.oldest) {
        if (this.#deaths.size >= MAX_KNOWN) this.#deaths.clear();
        this.#deaths.set(key, (this.#deaths.get(key) ?? 0) + 1);
      }
      throw cause;
    }
  }

  write(statements: InStatement[]): Promise<void> {
    return this.#database.write(statements);
  }

  close(): Promise<void> {
    return this.#database.close();
  }
}
