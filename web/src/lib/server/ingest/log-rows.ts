import type { InStatement } from '@libsql/client';
import { maskAttributes } from '@tromix/core/mask/attributes';
import { maskText } from '@tromix/core/mask/text';
import type { LogRecord } from '@tromix/core/formats/otlp/logs';
import { bulkInsert } from '../db/bulk';

const LOG_COLUMNS = ['trace_id', 'span_id', 'at_us', 'at_ns', 'severity', 'body', 'attributes'];

/** A row of `logs`, masked as spans are. */
export function logRow(record: LogRecord, hashKey: number): unknown[] {
  const { traceId, spanId, atUs, atNs, severity, body, attributes } = record;
  maskAttributes(attributes, { hashKey, keepLiterals: false });
  return [traceId, spanId, atUs, atNs, severity, maskText(body, 'message'), [...attributes]];
}

/** A record that came before is not stored twice. */
export const insertLogs = (rows: unknown[][]): InStatement =>
  bulkInsert('INSERT OR IGNORE', 'logs', LOG_COLUMNS, rows);
