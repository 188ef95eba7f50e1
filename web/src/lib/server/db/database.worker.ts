import { setImmediate as breathe } from 'node:timers/promises';
import { parentPort, workerData } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import type { InStatement, InValue } from '@libsql/client';
import { reclaim } from '../reclaim';
import { openForReading, openForWriting } from './client';
import { yieldToReaders } from '../yield-priority';
import type { Database, Table } from './database';
import type { Answer, DatabaseService, DatabaseThreadOptions } from './database-thread';

/** Statements keep the texts they were given until they are collected: so many characters may wait for that. */
const MAX_GIVEN = 16 * 1024 * 1024;

/** A database behind a message port, opened by the first question. Errors travel as values, with their words. */
class Service implements DatabaseService {
  #database: Promise<Database> | undefined;
  #given = 0;

  query(sql: string, args?: InValue[]): Promise<Answer<Table>> {
    this.#count(args);
    return this.#answer((database) => database.query(sql, args));
  }

  write(statements: InStatement[]): Promise<Answer<void>> {
    for (const statement of statements)
      if (typeof statement !== 'string' && Array.isArray(statement.args)) this.#count(statement.args);
    return this.#answer((database) => database.write(statements));
  }

  close(): Promise<Answer<void>> {
    return this.#answer((database) => database.close());
  }

  #count(args: readonly InValue[] = []): void {
    for (const arg of args) if (typeof arg === 'string') this.#given += arg.length;
  }

  async #answer<T>(work: (database: Database) => Promise<T>): Promise<Answer<T>> {
    try {
      this.#database ??= open();
      return { value: await work(await this.#database) };
    } catch (cause) {
      return { failed: (cause as Error).message };
    } finally {
      if (this.#given > MAX_GIVEN) {
        this.#given = 0;
        reclaim();
        // What was collected is let go of in a turn of the event loop, and while one message follows another there is none.
        await breathe();
      }
    }
  }
}
const { databaseUrl, migrationsFolder, port } = workerData as DatabaseThreadOptions;
const open = (): Promise<Database> =>
  migrationsFolder ? openForWriting(databaseUrl, migrationsFolder) : openForReading(databaseUrl);

if (migrationsFolder) yieldToReaders();
expose(new Service(), nodeEndpoint(port ?? parentPort!));
