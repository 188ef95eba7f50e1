import { parentPort, workerData } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import type { InStatement, InValue } from '@libsql/client';
import { openForReading, openForWriting } from './client';
import { yieldToReaders } from '../yield-priority';
import type { Database, Table } from './database';
import type { DatabaseThreadOptions, Answer } from './remote';

/** A database behind a message port, opened by the first question. Errors travel as values, with their words. */
class DatabaseService {
  #database: Promise<Database> | undefined;

  query(sql: string, args?: InValue[]): Promise<Answer<Table>> {
    return this.#answer((database) => database.query(sql, args));
  }

  write(statements: InStatement[]): Promise<Answer<void>> {
    return this.#answer((database) => database.write(statements));
  }

  close(): Promise<Answer<void>> {
    return this.#answer((database) => database.close());
  }

  async #answer<T>(work: (database: Database) => Promise<T>): Promise<Answer<T>> {
    try {
      this.#database ??= open();
      return { value: await work(await this.#database) };
    } catch (cause) {
      return { failed: (cause as Error).message };
    }
  }
}
export type { DatabaseService };

const { databaseUrl, migrationsFolder, port } = workerData as DatabaseThreadOptions;
const open = (): Promise<Database> =>
  migrationsFolder ? openForWriting(databaseUrl, migrationsFolder) : openForReading(databaseUrl);

if (migrationsFolder) yieldToReaders();
expose(new DatabaseService(), nodeEndpoint(port ?? parentPort!));
