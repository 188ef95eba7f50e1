import { select } from '../db/reader';
import type { EvidenceItem } from './evidence';

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

/**
 * The requests of a recorded process that met its recording: by process id where both name one, else by service and host.
 * None where it is not known when, or of whom, it was recorded.
 */
export async function requestsDuring(item: EvidenceItem): Promise<RecordedRequests> {
  const { startedAtUs, durationNs, service, host, pid } = item;
  if (startedAtUs === null || durationNs <= 0 || service === '') return { count: 0, requests: [] };
  const endUs = startedAtUs + durationNs / 1000;
  const where = `r.start_us >= ? AND r.start_us < ? AND r.start_us + r.duration_ns / 1000 > ?
    AND s.name = ? AND (? = '' OR h.name = ?) AND (? = 0 OR p.pid = 0 OR p.pid = ?)`;
  const joins = `FROM requests r JOIN services s ON s.id = r.service_id JOIN hosts h ON h.id = r.host_id
    JOIN endpoints e ON e.id = r.endpoint_id JOIN resources p ON p.id = r.resource_id`;
  const args = [startedAtUs - LONGEST_US, endUs, startedAtUs, service, host, host, pid, pid];
  const rows = await select<{
    traceId: string;
    spanId: string;
    endpoint: string;
    startUs: number;
    durationNs: number;
    failed: number;
  }>(
    `SELECT r.trace_id AS traceId, r.span_id AS spanId, e.name AS endpoint, r.start_us AS startUs, r.duration_ns AS durationNs, r.failed AS failed
      ${joins} WHERE ${where} ORDER BY r.start_us LIMIT ${MAX_LISTED}`,
    args
  );
  const [{ n }] =
    rows.length < MAX_LISTED
      ? [{ n: rows.length }]
      : await select<{ n: number }>(`SELECT count(*) AS n ${joins} WHERE ${where}`, args);
  return {
    count: n,
    requests: rows.map(({ traceId, spanId, endpoint, startUs, durationNs: length, failed }) => {
      const fromNs = (startUs - startedAtUs) * 1000;
      return { traceId, spanId, endpoint, fromNs, toNs: fromNs + length, failed: failed === 1 };
    })
  };
}
