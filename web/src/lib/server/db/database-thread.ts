import type { MessagePort } from 'node:worker_threads';
import type { InStatement, InValue } from '@libsql/client';
import type { Table } from './database';

export interface DatabaseThreadOptions {
  databaseUrl: string;
  /** Where the migrations lie that are run at opening; '' for a connection that only reads. */
  migrationsFolder: string;
  /** Where it is asked; null for the thread's own port. */
  port: MessagePort | null;
}

/** Errors travel as values, with their words. */
export type Answer<T> = { value: T } | { failed: string };

/** What a thread with a database answers. */
export interface DatabaseService {
  query: (sql: string, args?: InValue[]) => Promise<Answer<Table>>;
  write: (statements: InStatement[]) => Promise<Answer<void>>;
  close: () => Promise<Answer<void>>;
}
