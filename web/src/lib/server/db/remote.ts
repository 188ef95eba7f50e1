import type { MessagePort } from 'node:worker_threads';
import type { InStatement, InValue } from '@libsql/client';
import { wrap } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import type { DatabaseService } from './database.worker';
import { DatabaseError, type Database, type Table } from './database';

export interface DatabaseThreadOptions {
  databaseUrl: string;
  /** Where the migrations lie that are run at opening; '' for a connection that only reads. */
  migrationsFolder: string;
  port: MessagePort;
}

export type Answer<T> = { value: T } | { failed: string };

/** A database that runs in another thread, so that this one can compute meanwhile. */
export class RemoteDatabase implements Database {
  readonly #service: DatabaseService;

  constructor(port: MessagePort) {
    // Every method of the service answers with a promise, so the proxy has its very type.
    this.#service = wrap(nodeEndpoint(port)) as unknown as DatabaseService;
  }

  async query(sql: string, args: InValue[] = []): Promise<Table> {
    return valueOf(await this.#service.query(sql, args));
  }

  async write(statements: InStatement[]): Promise<void> {
    valueOf(await this.#service.write(statements));
  }

  async close(): Promise<void> {
    valueOf(await this.#service.close());
  }
}

function valueOf<T>(answer: Answer<T>): T {
  if ('failed' in answer) throw new DatabaseError(answer.failed);
  return answer.value;
}
