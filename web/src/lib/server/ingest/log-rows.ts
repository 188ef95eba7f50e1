import type { InStatement } from '@libsql/client';
import { maskResource, type MaskOptions } from '@tromix/core/calls/mask';
import { kindOfFailure } from '@tromix/core/failures/failure-kind';
import { ERROR_IN_LOG } from '@tromix/core/failures/failed-span';
import {
  loggedException,
  loggedIdentity,
  logTellsOfFailure,
  type LoggedFailure
} from '@tromix/core/failures/logged-failures';
import { groupBy } from '@tromix/core/group-by';
import type { LogRecord } from '@tromix/core/formats/otlp/logs';
import { maskAttributes } from '@tromix/core/mask/attributes';
import { maskText } from '@tromix/core/mask/text';
import { attributesFrom } from '$lib/stored-spans';
import { oneOf } from '../db/bulk';
import { jsonOf, type Database } from '../db/database';
import { columnsBut, rowsOf } from '../db/rows';
import { logs } from '../db/schema';
import { failureOutside, type FailureRecord } from './booked-rows';
import { LOAD_ATTRIBUTE } from './pages/page-errors';
import type { Dictionary, KnownResource } from './dictionary';

type LogRow = Omit<typeof logs.$inferInsert, 'id'>;
const LOGS = rowsOf(logs, columnsBut(logs, 'id'));

/** A record that is masked as spans are, and its process. */
export interface MaskedLog {
  record: LogRecord;
  process: KnownResource;
  tellsOfFailure: boolean;
}

export function maskLog(record: LogRecord, mask: MaskOptions, dictionary: Dictionary): MaskedLog {
  maskAttributes(record.attributes, { hashKey: mask.hashKey, keepLiterals: false });
  return {
    record: { ...record, body: maskText(record.body, 'message') },
    process: dictionary.resource(maskResource(record.resource, mask), record.atUs),
    tellsOfFailure: logTellsOfFailure(record)
  };
}

const rowOf = ({ record, process, tellsOfFailure }: MaskedLog): LogRow => ({
  traceId: record.traceId,
  spanId: record.spanId,
  resourceId: process.id,
  atUs: record.atUs,
  atNs: record.atNs,
  severity: record.severity,
  body: record.body,
  attributes: JSON.stringify([...record.attributes]),
  failure: tellsOfFailure ? 1 : 0
});

/** A record that came before is not stored twice. */
export const insertLogs = (records: readonly MaskedLog[]): InStatement =>
  LOGS.insert('INSERT OR IGNORE', records.map(rowOf));

/** Those of some records that are not stored yet, each once: what they tell is counted once, however often it is sent. */
export async function notYetStored(database: Database, records: readonly MaskedLog[]): Promise<MaskedLog[]> {
  if (records.length === 0) return [];
  const keys = records.map(({ record: { traceId, spanId, atUs, atNs, body }, process }) =>
    JSON.stringify([traceId, spanId, atUs, atNs, process.id, body])
  );
  const stored = await jsonOf<string>(
    database,
    `SELECT json_group_array(j.value) FROM json_each(?) j WHERE EXISTS (SELECT 1 FROM logs l
      WHERE l.trace_id = j.value->>0 AND l.span_id = j.value->>1 AND l.at_us = j.value->>2 AND l.at_ns = j.value->>3
        AND l.resource_id = j.value->>4 AND l.body = j.value->>5)`,
    [`[${keys.map((key) => JSON.stringify(key)).join(',')}]`]
  );
  const before = new Set(stored);
  return records.filter((_, i) => {
    const isNew = !before.has(keys[i]);
    before.add(keys[i]);
    return isNew;
  });
}

/** Makes the failures that records outside of every trace tell of; their names have numbers once the dictionary has learned them. */
export function failuresOfLogs(
  records: readonly MaskedLog[],
  dictionary: Dictionary
): (() => FailureRecord)[] {
  return records.map(({ record, process }) => {
    const service = process.serviceName;
    const thrown = loggedException(record);
    const group = dictionary.failureGroup(loggedIdentity(service, record), kindOfFailure(thrown));
    const way = dictionary.failureWay([{ service, label: thrown.type || ERROR_IN_LOG }]);
    return failureOutside({
      process,
      group,
      way,
      person: dictionary.person([record.attributes]),
      atUs: record.atUs,
      // What nothing on a page caught, happened before somebody’s eyes.
      isSeen: record.attributes.has(LOAD_ATTRIBUTE)
    });
  });
}

type StoredFailure = [
  traceId: string,
  spanId: string,
  process: string,
  atUs: number,
  atNs: number,
  body: string,
  attributes: string
];

/** What the log records of some traces tell of failures, by trace. */
export async function loggedFailures(
  database: Database,
  traceIds: readonly string[]
): Promise<Map<string, LoggedFailure[]>> {
  const rows = await jsonOf<StoredFailure>(
    database,
    `SELECT json_group_array(json_array(l.trace_id, l.span_id, coalesce(r.key, ''), l.at_us, l.at_ns, l.body, l.attributes)
        ORDER BY l.at_us, l.at_ns)
      FROM logs l LEFT JOIN resources r ON r.id = l.resource_id WHERE l.failure = 1 AND ${oneOf('l.trace_id')}`,
    [JSON.stringify(traceIds)]
  );
  return new Map(
    [...groupBy(rows, ([traceId]) => traceId)].map(([id, of]) => [
      id,
      of.map(([, spanId, process, atUs, atNs, body, attributes]): LoggedFailure => ({
        spanId,
        process,
        atUs,
        atNs,
        body,
        attributes: attributesFrom(attributes)
      }))
    ])
  );
}
