import type { MessagePort } from 'node:worker_threads';
import type { InStatement, InValue } from '@libsql/client';
import { wrap } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import type { Answer, DatabaseService } from './database-thread';
import { DatabaseError, type Database, type Table } from './database';

/** Asks the service, wherever its thread is. */
export type AskDatabase = <T>(work: (service: DatabaseService) => Promise<Answer<T>>) => Promise<Answer<T>>;

/** Asks a database thread at the other end of a port. */
export function askAt(port: MessagePort): AskDatabase {
  // Every method of the service answers with a promise, so the proxy has its very type.
  const service = wrap(nodeEndpoint(port)) as unknown as DatabaseService;
  return (work) => work(service);
}

/** A database that runs in another thread, so that this one can compute meanwhile. */
export class RemoteDatabase implements Database {
  readonly #ask: AskDatabase;

  constructor(ask: AskDatabase) {
    this.#ask = ask;
  }

  async query(sql: string, args: InValue[] = []): Promise<Table> {
    return valueOf(await this.#ask((service) => service.query(sql, args)));
  }

  async write(statements: InStatement[]): Promise<void> {
    valueOf(await this.#ask((service) => service.write(statements)));
  }

  async close(): Promise<void> {
    valueOf(await this.#ask((service) => service.close()));
  }
}

function valueOf<T>(answer: Answer<T>): T {
  if ('failed' in answer) throw new DatabaseError(answer.failed);
  return answer.value;
}
