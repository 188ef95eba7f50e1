import type { InStatement } from '@libsql/client';
import { maskAttributes } from '@tromix/core/calls/mask';
import type { LogRecord } from '@tromix/core/formats/otlp/logs';
import { bulkInsert } from '../db/bulk';

const LOG_COLUMNS = ['trace_id', 'span_id', 'at_us', 'at_ns', 'severity', 'body', 'attributes'];

/** A row of `logs`. Attributes that carry secrets or statements are taken out as they are of spans. */
export function logRow(record: LogRecord): unknown[] {
  const { traceId, spanId, atUs, atNs, severity, body, attributes } = record;
  maskAttributes(attributes, false);
  return [traceId, spanId, atUs, atNs, severity, body, [...attributes]];
}

/** A record that came before is not stored twice. */
export const insertLogs = (rows: unknown[][]): InStatement =>
  bulkInsert('INSERT OR IGNORE', 'logs', LOG_COLUMNS, rows);
