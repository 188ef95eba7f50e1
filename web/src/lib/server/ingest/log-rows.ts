import type { InStatement } from '@libsql/client';
import { maskAttributes } from '@tromix/core/mask/attributes';
import { maskText } from '@tromix/core/mask/text';
import type { LogRecord } from '@tromix/core/formats/otlp/logs';
import { columnsBut, rowsOf } from '../db/rows';
import { logs } from '../db/schema';

type LogRow = Omit<typeof logs.$inferInsert, 'id'>;
const LOGS = rowsOf(logs, columnsBut(logs, 'id'));

/** A row of `logs`, masked as spans are. */
export function logRow(record: LogRecord, hashKey: number): LogRow {
  const { traceId, spanId, atUs, atNs, severity, body, attributes } = record;
  maskAttributes(attributes, { hashKey, keepLiterals: false });
  return {
    traceId,
    spanId,
    atUs,
    atNs,
    severity,
    body: maskText(body, 'message'),
    attributes: JSON.stringify([...attributes])
  };
}

/** A record that came before is not stored twice. */
export const insertLogs = (rows: readonly LogRow[]): InStatement => LOGS.insert('INSERT OR IGNORE', rows);
