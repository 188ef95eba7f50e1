import type { Resource } from '@tromix/core/trace/span';
import type { Scope } from '$lib/scope';
import { reader, select, selectJson } from '../db/reader';
import type { StoredSpan } from '$lib/stored-span';
import { SPAN_SELECT } from '../ingest/span-rows';
import { loadResources } from '../ingest/writer';
import { neighboursOf } from './requests';

export interface CoveringProfile {
  id: string;
  service: string;
  host: string;
  pid: number;
  startedAtUs: number;
  durationNs: number;
}

export interface SameFinding {
  rule: string;
  subject: string;
  requests: number;
}

export interface RequestPage {
  traceId: string;
  spanId: string;
  spans: StoredSpan[];
  resources: [number, Omit<Resource, 'attributes'>][];
  profiles: CoveringProfile[];
  /** How many requests of the endpoint have the same finding. */
  same: SameFinding[];
  /** Requests of the endpoint altogether. */
  endpointRequests: number;
  slower: string | null;
  faster: string | null;
}

/** All that the page of one request needs: the spans of its trace as stored, and what lies around it. Null where there is none. */
export async function requestOf(
  scope: Scope,
  traceId: string,
  spanId: string,
  nowMs: number
): Promise<RequestPage | null> {
  const [request] = await select<{ endpoint_id: number; duration_ns: number; start_us: number }>(
    'SELECT endpoint_id, duration_ns, start_us FROM requests WHERE trace_id = ? AND span_id = ?',
    [traceId, spanId]
  );
  if (!request) return null;
  const spans = await selectJson<StoredSpan>(`${SPAN_SELECT} WHERE s.trace_id = ?`, [traceId]);
  const used = new Set(spans.map((row) => row[3]));
  const resources = [...(await loadResources(await reader()))]
    .filter(([id]) => used.has(id))
    .map(([id, { service, host, release, pid, key }]): [number, Omit<Resource, 'attributes'>] => [
      id,
      { service, host, release, pid, key }
    ]);
  const endUs = request.start_us + request.duration_ns / 1000;
  const profiles = await select<CoveringProfile>(
    `SELECT id, service, host, pid, started_at_us AS startedAtUs, duration_ns AS durationNs FROM evidence
      WHERE kind = 'profile' AND started_at_us < ? AND started_at_us + duration_ns / 1000 > ?`,
    [endUs, request.start_us]
  );
  const same = await select<SameFinding>(
    `SELECT f.rule AS rule, f.subject AS subject, count(DISTINCT f.trace_id || f.span_id) AS requests FROM findings f
      WHERE (f.endpoint_id, f.rule, f.subject) IN (SELECT endpoint_id, rule, subject FROM findings WHERE trace_id = ?)
      GROUP BY f.rule, f.subject`,
    [traceId]
  );
  const [{ count }] = await select<{ count: number }>(
    'SELECT count(*) AS count FROM requests WHERE endpoint_id = ?',
    [request.endpoint_id]
  );
  const around = await neighboursOf(scope, spanId, request.endpoint_id, request.duration_ns, nowMs);
  return { traceId, spanId, spans, resources, profiles, same, endpointRequests: count, ...around };
}
