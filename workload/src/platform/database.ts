import { setTimeout as sleep } from 'node:timers/promises';
import type { Attributes } from '@opentelemetry/api';
import SQLite from 'libsql';
import { originAttributes } from './origin';
import { Pool } from './pool';
import { inSpan } from './telemetry';

const CLIENT = 2;
const POOL_SIZE = 4;

export type Row = Record<string, string | number | null>;
export type Value = string | number | null;

/** What statements are asked of: a pool, or a connection of it that is held. */
export interface Statements {
  all: (sql: string, ...values: Value[]) => Promise<Row[]>;
  run: (sql: string, ...values: Value[]) => Promise<void>;
}

/**
 * A service's own SQLite file, reached as if over a network: a statement takes a connection of a pool and waits one round trip, as it would for a
 * database server. Every statement is a span with its text, its parameters and the line that asked.
 */
export class Database implements Statements {
  readonly #file: SQLite.Database;
  readonly #roundTripMs: number;
  readonly #pool: Pool;

  constructor(path: string, name: string, roundTripMs: number) {
    this.#file = new SQLite(path);
    this.#pool = new Pool(name, POOL_SIZE);
    this.#roundTripMs = roundTripMs;
  }

  async all(sql: string, ...values: Value[]): Promise<Row[]> {
    const origin = originAttributes();
    return this.#pool.hold(() => this.#all(sql, values, origin));
  }

  async run(sql: string, ...values: Value[]): Promise<void> {
    const origin = originAttributes();
    await this.#pool.hold(() => this.#run(sql, values, origin));
  }

  /** Several statements over one connection. */
  async hold<T>(work: (connection: Statements) => Promise<T>): Promise<T> {
    return this.#pool.hold(() =>
      work({
        all: (sql, ...values) => this.#all(sql, values, originAttributes()),
        run: (sql, ...values) => this.#run(sql, values, originAttributes())
      })
    );
  }

  /** Set-up only: no span, no round trip. */
  setUp(sql: string): void {
    this.#file.exec(sql);
  }

  #all(sql: string, values: Value[], origin: Attributes): Promise<Row[]> {
    return this.#ask(sql, values, origin, () => this.#file.prepare(sql).all(...values) as Row[]);
  }

  async #run(sql: string, values: Value[], origin: Attributes): Promise<void> {
    await this.#ask(sql, values, origin, () => {
      this.#file.prepare(sql).run(...values);
      return [];
    });
  }

  async #ask(sql: string, values: Value[], origin: Attributes, ask: () => Row[]): Promise<Row[]> {
    const parameters = Object.fromEntries(
      values.map((value, i) => [`db.query.parameter.${i}`, String(value)])
    );
    const operation = sql.trim().split(/\s+/)[0].toUpperCase();
    const attributes = {
      'db.system.name': 'sqlite',
      'db.query.text': sql,
      'db.operation.name': operation,
      ...parameters,
      ...origin
    };
    return inSpan(
      operation,
      attributes,
      async (span) => {
        await sleep(this.#roundTripMs * (0.8 + Math.random() * 0.5));
        const rows = ask();
        span.setAttribute('db.response.returned_rows', rows.length);
        return rows;
      },
      CLIENT
    );
  }
}
