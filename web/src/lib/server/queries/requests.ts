import { quantiles } from '@tromix/core/stats/percentile';
import { apdexScore, apdexZone, DEFAULT_APDEX_T_MS, type ApdexCounts } from '@tromix/core/stats/apdex';
import type { Ledger } from '@tromix/core/trace/account';
import { scopeWindow, type Scope, type TimeWindow } from '$lib/scope';
import { ledgerFrom, IN_COLUMNS } from '../db/ledger-columns';
import { reader, select } from '../db/reader';
import { requestsFilter } from './filter';

export interface RequestRow {
  traceId: string;
  spanId: string;
  service: string;
  endpoint: string;
  host: string;
  release: string;
  startUs: number;
  durationNs: number;
  failed: boolean;
  calls: number;
  findings: number;
  ledger: Ledger;
}

export const SORTS = {
  duration: 'r.duration_ns DESC',
  time: 'r.start_us DESC',
  calls: 'r.call_count DESC, r.duration_ns DESC',
  findings: 'r.finding_count DESC, r.duration_ns DESC'
} as const;
export type Sort = keyof typeof SORTS;

export interface RequestList {
  window: TimeWindow;
  count: number;
  failed: number;
  /** Exact, over all requests that match. */
  p50Ns: number;
  p95Ns: number;
  p99Ns: number;
  apdex: ApdexCounts & { score: number };
  rows: RequestRow[];
}

/** Rows sent to the list at most; the count above it is of all. */
export const MAX_ROWS = 5000;

export async function requestsOf(scope: Scope, sort: Sort, nowMs: number): Promise<RequestList> {
  const window = scopeWindow(scope, nowMs);
  const filter = requestsFilter(scope, window);
  const client = await reader();
  const durations = await client.execute({
    sql: `SELECT json_group_array(r.duration_ns * (1 - 2 * r.failed) - r.failed) FROM requests r WHERE ${filter.sql}`,
    args: filter.args
  });
  // Failed requests travel as negative durations less one, so that a failed request of zero length is told apart.
  const coded = JSON.parse(String(durations.rows[0][0])) as number[];
  const values = coded.map((value) => (value < 0 ? -value - 1 : value));
  const zones: ApdexCounts = { satisfied: 0, tolerating: 0, frustrated: 0 };
  coded.forEach((value, i) => zones[apdexZone(values[i] / 1e6, DEFAULT_APDEX_T_MS, value < 0)]++);
  const [p50Ns, p95Ns, p99Ns] = quantiles(values, [0.5, 0.95, 0.99]);
  const list = await client.execute({
    sql: `SELECT json_group_array(json_array(trace_id, span_id, service, endpoint, host, release, start_us, duration_ns, failed, call_count, finding_count, ${IN_COLUMNS.join(', ')})) FROM (
      SELECT r.*, s.name AS service, e.name AS endpoint, h.name AS host, l.name AS release FROM requests r
      JOIN services s ON s.id = r.service_id JOIN endpoints e ON e.id = r.endpoint_id JOIN hosts h ON h.id = r.host_id JOIN releases l ON l.id = r.release_id
      WHERE ${filter.sql} ORDER BY ${SORTS[sort]} LIMIT ${MAX_ROWS})`,
    args: filter.args
  });
  const rows = (JSON.parse(String(list.rows[0][0])) as (string | number)[][]).map(requestRow);
  return {
    window,
    count: values.length,
    failed: coded.filter((value) => value < 0).length,
    p50Ns,
    p95Ns,
    p99Ns,
    apdex: { ...zones, score: apdexScore(zones) },
    rows
  };
}

function requestRow(row: (string | number)[]): RequestRow {
  const [traceId, spanId, service, endpoint, host, release] = row.map(String);
  const [startUs, durationNs, failed, calls, findings] = row.slice(6, 11).map(Number);
  return {
    traceId,
    spanId,
    service,
    endpoint,
    host,
    release,
    startUs,
    durationNs,
    failed: failed === 1,
    calls,
    findings,
    ledger: ledgerFrom(row.slice(11).map(Number))
  };
}

/** The next slower and next faster request of the same endpoint in the scope. */
export async function neighboursOf(
  scope: Scope,
  spanId: string,
  endpointId: number,
  durationNs: number,
  nowMs: number
): Promise<{ slower: string | null; faster: string | null }> {
  const window = scopeWindow(scope, nowMs);
  const next = async (compare: '>' | '<', order: 'ASC' | 'DESC'): Promise<string | null> => {
    const rows = await select<{ path: string }>(
      `SELECT trace_id || '/' || span_id AS path FROM requests WHERE endpoint_id = ? AND start_us >= ? AND start_us < ? AND span_id <> ? AND duration_ns ${compare} ? ORDER BY duration_ns ${order} LIMIT 1`,
      [endpointId, window.fromUs, window.toUs, spanId, durationNs]
    );
    return rows[0]?.path ?? null;
  };
  return { slower: await next('>', 'ASC'), faster: await next('<', 'DESC') };
}
