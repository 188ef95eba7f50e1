import Database from 'libsql';
import {
  valueIn,
  valueOut,
  type BatchResult,
  type BatchStep,
  type Condition,
  type Failure,
  type Statement,
  type StatementResult,
  type Stored,
  type StreamRequest,
  type StreamResult
} from './protocol';

const BUSY_TIMEOUT_MS = 5000;

/** A stream of the protocol: one connection to a file, on which what is asked is done in turn. */
export class Stream {
  readonly #file: Database.Database;
  readonly #texts = new Map<number, string>();

  constructor(file: string) {
    this.#file = new Database(file, { timeout: BUSY_TIMEOUT_MS });
  }

  answer(request: StreamRequest): StreamResult {
    try {
      return { type: 'ok', response: { type: request.type, ...this.#result(request) } };
    } catch (cause) {
      return { type: 'error', error: failureOf(cause) };
    }
  }

  close(): void {
    this.#file.close();
  }

  #result(request: StreamRequest): { result?: StatementResult | BatchResult } {
    switch (request.type) {
      case 'execute':
        return { result: this.#execute(request.stmt) };
      case 'batch':
        return { result: this.#batch(request.batch.steps) };
      case 'sequence':
        this.#file.exec(this.#textOf(request));
        return {};
      case 'store_sql':
        this.#texts.set(request.sql_id, request.sql);
        return {};
      case 'close_sql':
        this.#texts.delete(request.sql_id);
        return {};
      case 'close':
        this.close();
        return {};
    }
  }

  #execute({ args = [], named_args: named = [], ...text }: Statement): StatementResult {
    const bound =
      named.length > 0
        ? Object.fromEntries(named.map(({ name, value }) => [name.replace(/^[@:$]/, ''), valueIn(value)]))
        : args.map(valueIn);
    const statement = this.#file.prepare(this.#textOf(text));
    // Integers whole, as a server has them.
    statement.safeIntegers(true);
    if (!statement.reader) {
      const { changes, lastInsertRowid } = statement.run(bound);
      return { cols: [], rows: [], affected_row_count: changes, last_insert_rowid: String(lastInsertRowid) };
    }
    const rows = statement.raw(true).all(bound) as Stored[][];
    return {
      cols: statement.columns().map(({ name }) => ({ name })),
      rows: rows.map((row) => row.map(valueOut)),
      affected_row_count: 0,
      last_insert_rowid: null
    };
  }

  /** Steps whose condition does not hold are left out, and what fails is answered with the others: it does not end the batch. */
  #batch(steps: readonly BatchStep[]): BatchResult {
    const results: BatchResult = { step_results: [], step_errors: [] };
    for (const { condition, stmt } of steps) {
      let [result, error]: [StatementResult | null, Failure | null] = [null, null];
      if (!condition || holds(condition, results))
        try {
          result = this.#execute(stmt);
        } catch (cause) {
          error = failureOf(cause);
        }
      results.step_results.push(result);
      results.step_errors.push(error);
    }
    return results;
  }

  #textOf({ sql, sql_id: id }: { sql?: string; sql_id?: number }): string {
    const text = sql ?? (id === undefined ? undefined : this.#texts.get(id));
    if (text === undefined) throw new Error('The statement has no text.');
    return text;
  }
}

function holds(condition: Condition, results: BatchResult): boolean {
  switch (condition.type) {
    case 'ok':
      return results.step_results[condition.step] !== null;
    case 'error':
      return results.step_errors[condition.step] !== null;
    case 'not':
      return !holds(condition.cond, results);
    case 'and':
      return condition.conds.every((one) => holds(one, results));
    case 'or':
      return condition.conds.some((one) => holds(one, results));
  }
}

function failureOf(cause: unknown): Failure {
  const { message, code } = cause as Error & { code?: string };
  return { message, ...(code === undefined ? {} : { code }) };
}
