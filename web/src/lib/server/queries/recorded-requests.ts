import { select } from '../db/reader';
import type { EvidenceItem } from './evidence';
import type { Filter } from './filter';

/** A request a process served while it was recorded. Times in nanoseconds from the recording's start. */
export interface RecordedRequest {
  traceId: string;
  spanId: string;
  endpoint: string;
  fromNs: number;
  toNs: number;
  failed: boolean;
}

export interface RecordedRequests {
  count: number;
  requests: RecordedRequest[];
}

/** More than this are not listed; they are counted all the same. */
const MAX_LISTED = 5000;
/** A request that began so long before a recording may still run in it. */
const LONGEST_US = 120e6;

/** A process while it was recorded. */
export type RecordedProcess = Pick<EvidenceItem, 'startedAtUs' | 'durationNs' | 'service' | 'host' | 'pid'>;

const JOINS = `FROM requests r JOIN services s ON s.id = r.service_id JOIN hosts h ON h.id = r.host_id
    JOIN endpoints e ON e.id = r.endpoint_id JOIN resources p ON p.id = r.resource_id`;

/**
 * Picks the requests of a recorded process that met its recording: by process id where both name one, else by service and host. Null where it is not
 * known when, or of whom, it was recorded.
 */
function during({ startedAtUs, durationNs, service, host, pid }: RecordedProcess): Filter | null {
  if (startedAtUs === null || durationNs <= 0 || service === '') return null;
  const endUs = startedAtUs + durationNs / 1000;
  return {
    sql: `r.start_us >= ? AND r.start_us < ? AND r.start_us + r.duration_ns / 1000 > ?
    AND s.name = ? AND (? = '' OR h.name = ?) AND (? = 0 OR p.pid = 0 OR p.pid = ?)`,
    args: [startedAtUs - LONGEST_US, endUs, startedAtUs, service, host, host, pid, pid]
  };
}

/** How many requests met a recording. */
export async function countDuring(process: RecordedProcess): Promise<number> {
  const where = during(process);
  if (!where) return 0;
  const [{ n }] = await select<{ n: number }>(`SELECT count(*) AS n ${JOINS} WHERE ${where.sql}`, where.args);
  return n;
}

/** The requests of a recorded process that met its recording; none where it is not known when, or of whom, it was recorded. */
export async function requestsDuring(item: RecordedProcess): Promise<RecordedRequests> {
  const where = during(item);
  if (!where) return { count: 0, requests: [] };
  const startedAtUs = item.startedAtUs!;
  const rows = await select<{
    traceId: string;
    spanId: string;
    endpoint: string;
    startUs: number;
    durationNs: number;
    failed: number;
  }>(
    `SELECT r.trace_id AS traceId, r.span_id AS spanId, e.name AS endpoint, r.start_us AS startUs, r.duration_ns AS durationNs, r.failed AS failed
      ${JOINS} WHERE ${where.sql} ORDER BY r.start_us LIMIT ${MAX_LISTED}`,
    where.args
  );
  return {
    count: rows.length < MAX_LISTED ? rows.length : await countDuring(item),
    requests: rows.map(({ traceId, spanId, endpoint, startUs, durationNs: length, failed }) => {
      const fromNs = (startUs - startedAtUs) * 1000;
      return { traceId, spanId, endpoint, fromNs, toNs: fromNs + length, failed: failed === 1 };
    })
  };
}

/** Where to find such requests, with the numbers of their endpoints. */
export async function placesDuring(
  process: RecordedProcess,
  most: number
): Promise<{ traceId: string; spanId: string; endpoint: number }[]> {
  const where = during(process);
  if (!where) return [];
  return select(
    `SELECT r.trace_id AS traceId, r.span_id AS spanId, r.endpoint_id AS endpoint ${JOINS} WHERE ${where.sql} ORDER BY r.start_us LIMIT ?`,
    [...where.args, most]
  );
}
