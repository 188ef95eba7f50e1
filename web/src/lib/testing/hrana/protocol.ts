// What is sent of Hrana, version 2, in JSON. Source: the specification of Hrana over HTTP, “HRANA_2_SPEC” of libSQL (from memory, held against the client of libSQL
// itself, which speaks it in the tests).

export type Value =
  | { type: 'null' }
  | { type: 'integer'; value: string }
  | { type: 'float'; value: number }
  | { type: 'text'; value: string }
  | { type: 'blob'; base64: string };

/** A value as SQLite has it. */
export type Stored = null | bigint | number | string | Uint8Array;

export interface Statement {
  sql?: string;
  /** A text that was stored in the stream before. */
  sql_id?: number;
  args?: Value[];
  named_args?: { name: string; value: Value }[];
}

export type Condition =
  | { type: 'ok' | 'error'; step: number }
  | { type: 'not'; cond: Condition }
  | { type: 'and' | 'or'; conds: Condition[] };

export interface BatchStep {
  condition?: Condition | null;
  stmt: Statement;
}

export type StreamRequest =
  | { type: 'execute'; stmt: Statement }
  | { type: 'batch'; batch: { steps: BatchStep[] } }
  | { type: 'sequence'; sql?: string; sql_id?: number }
  | { type: 'store_sql'; sql_id: number; sql: string }
  | { type: 'close_sql'; sql_id: number }
  | { type: 'close' };

export interface Failure {
  message: string;
  code?: string;
}

export interface StatementResult {
  cols: { name: string }[];
  rows: Value[][];
  affected_row_count: number;
  last_insert_rowid: string | null;
}

export interface BatchResult {
  step_results: (StatementResult | null)[];
  step_errors: (Failure | null)[];
}

export interface PipelineRequest {
  baton?: string | null;
  requests: StreamRequest[];
}

export type StreamResult =
  | { type: 'ok'; response: { type: StreamRequest['type']; result?: StatementResult | BatchResult } }
  | { type: 'error'; error: Failure };

export function valueIn(value: Value): Stored {
  switch (value.type) {
    case 'null':
      return null;
    case 'integer':
      return BigInt(value.value);
    case 'float':
    case 'text':
      return value.value;
    case 'blob':
      return Buffer.from(value.base64, 'base64');
  }
}

export function valueOut(value: Stored): Value {
  if (value === null) return { type: 'null' };
  if (typeof value === 'bigint') return { type: 'integer', value: String(value) };
  if (typeof value === 'number') return { type: 'float', value };
  if (typeof value === 'string') return { type: 'text', value };
  return { type: 'blob', base64: Buffer.from(value).toString('base64') };
}
