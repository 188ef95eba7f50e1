import type { PageLoad } from '@tromix/core/pages/page-load';
import { selectJson } from '../../db/reader';

/** A request of a server that a page asked for. */
export interface RequestBehind {
  traceId: string;
  spanId: string;
  service: string;
  endpoint: string;
  durationNs: number;
  calls: number;
  findings: number;
  failed: boolean;
}

type Row = [string, string, string, string, number, number, number, number];

/** Requests that some loads asked for and that are kept: servers say by `Server-Timing` which they are. */
export async function requestsBehind(loads: readonly PageLoad[]): Promise<RequestBehind[]> {
  const asked = loads.flatMap(({ resources }) =>
    resources.filter(({ traceId }) => traceId !== '').map(({ traceId, spanId }) => [traceId, spanId])
  );
  if (asked.length === 0) return [];
  const rows = await selectJson<Row>(
    `SELECT json_group_array(json_array(r.trace_id, r.span_id, s.name, e.name, r.duration_ns, r.call_count, r.finding_count, r.failed))
      FROM json_each(?) j JOIN requests r ON r.trace_id = j.value->>0 AND r.span_id = j.value->>1
      JOIN services s ON s.id = r.service_id JOIN endpoints e ON e.id = r.endpoint_id`,
    [JSON.stringify(asked)]
  );
  return rows.map(([traceId, spanId, service, endpoint, durationNs, calls, findings, failed]) => ({
    traceId,
    spanId,
    service,
    endpoint,
    durationNs,
    calls,
    findings,
    failed: failed === 1
  }));
}
