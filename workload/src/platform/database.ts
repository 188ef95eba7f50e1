import { setTimeout as sleep } from 'node:timers/promises';
import SQLite from 'libsql';
import { originAttributes } from './origin';
import { inSpan } from './telemetry';

const CLIENT = 2;

export type Row = Record<string, string | number | null>;
export type Value = string | number | null;

/**
 * A service's own SQLite file, reached as if over a network: each statement waits one round trip, as it would for a database server.
 * Every statement is a span with its text, its parameters and the line that asked.
 */
export class Database {
  readonly #file: SQLite.Database;
  readonly #roundTripMs: number;

  constructor(path: string, roundTripMs: number) {
    this.#file = new SQLite(path);
    this.#roundTripMs = roundTripMs;
  }

  async all(sql: string, ...values: Value[]): Promise<Row[]> {
    return this.#run(sql, values, () => this.#file.prepare(sql).all(...values) as Row[]);
  }

  async run(sql: string, ...values: Value[]): Promise<void> {
    await this.#run(sql, values, () => {
      this.#file.prepare(sql).run(...values);
      return [];
    });
  }

  /** Set-up only: no span, no round trip. */
  setUp(sql: string): void {
    this.#file.exec(sql);
  }

  async #run(sql: string, values: Value[], ask: () => Row[]): Promise<Row[]> {
    const parameters = Object.fromEntries(
      values.map((value, i) => [`db.query.parameter.${i}`, String(value)])
    );
    const operation = sql.trim().split(/\s+/)[0].toUpperCase();
    const attributes = {
      'db.system.name': 'sqlite',
      'db.query.text': sql,
      'db.operation.name': operation,
      ...parameters,
      ...originAttributes()
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
