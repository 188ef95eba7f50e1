import type { Resource } from '@tromix/core/trace/span';
import { eachSide, type Sides } from '@tromix/core/sides';
import type { Leavable } from '$lib/compared-scopes';
import type { StoredSpans } from '$lib/stored-spans';
import { scopeWindow, type Scope } from '$lib/scope';
import { oneOf } from '../../db/bulk';
import { jsonValue } from '../../db/database';
import { reader, selectJson } from '../../db/reader';
import { spansSelect } from '../../ingest/span-rows';
import { loadResources } from '../../ingest/stored-spans';
import { pickedFilter } from './picked-filter';

/** Some requests of a side with the spans of their traces: what sums do not tell is worked out from them. */
export interface SideTraces {
  requests: { traceId: string; spanId: string }[];
  spans: StoredSpans;
  resources: [number, Omit<Resource, 'attributes'>][];
}

/** Requests of a side at most, and spans of their traces in all. */
export const MOST_TRACES = 200;
const MOST_SPANS = 40_000;

/** The newest requests of both sides. */
export async function sideTraces(
  scopes: Sides<Scope>,
  leave: readonly Leavable[],
  nowMs: number
): Promise<Sides<SideTraces>> {
  const read = eachSide(scopes, (scope) => tracesOf(scope, leave, nowMs));
  const [before, after] = await Promise.all([read.before, read.after]);
  return { before, after };
}

async function tracesOf(scope: Scope, leave: readonly Leavable[], nowMs: number): Promise<SideTraces> {
  const { sql, args } = pickedFilter(scope, leave, scopeWindow(scope, nowMs));
  const newest = await selectJson<[string, string, number]>(
    `SELECT json_group_array(json_array(t, s, n)) FROM (
      SELECT r.trace_id AS t, r.span_id AS s, (SELECT count(*) FROM (SELECT 1 FROM spans p WHERE p.trace_id = r.trace_id LIMIT ${MOST_SPANS})) AS n
      FROM requests r WHERE ${sql} ORDER BY r.start_us DESC LIMIT ${MOST_TRACES})`,
    args
  );
  const requests: SideTraces['requests'] = [];
  let spans = 0;
  for (const [traceId, spanId, count] of newest) {
    spans += count;
    if (spans > MOST_SPANS) break;
    requests.push({ traceId, spanId });
  }
  const traceIds = [...new Set(requests.map(({ traceId }) => traceId))];
  const database = await reader();
  const [found, used] = await Promise.all([
    jsonValue(database, spansSelect(oneOf('trace_id')), [JSON.stringify(traceIds)]),
    selectJson<number>(
      `SELECT json_group_array(id) FROM (SELECT DISTINCT resource_id AS id FROM spans WHERE ${oneOf('trace_id')})`,
      [JSON.stringify(traceIds)]
    )
  ]);
  const resources = await loadResources(database, used);
  return {
    requests,
    spans: found as StoredSpans,
    resources: [...resources].map(([id, { service, host, release, pid, key }]) => [
      id,
      { service, host, release, pid, key }
    ])
  };
}
