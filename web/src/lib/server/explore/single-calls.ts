import { isFailed } from '@tromix/core/trace/requests';
import type { Attributes } from '@tromix/core/trace/span';
import type { Scope, TimeWindow } from '$lib/scope';
import { attributesFrom } from '$lib/stored-spans';
import { jsonOf, type Database } from '../db/database';
import { requestsFilter } from '../queries/filter';
import type { Singles } from './single-requests';

/** A call that a kept request made. */
export interface SingleCall {
  /** Start of the request that made it: calls are counted where their request is. Epoch microseconds. */
  requestUs: number;
  /** Tells the requests apart. */
  traceId: string;
  durationNs: number;
  failed: boolean;
  groupId: number;
  origin: string;
  attributes: Attributes;
}

/** Which calls are read. */
export interface CallFilter {
  /** Call groups by their numbers; any where none is named. */
  groups: readonly number[] | null;
  /** Conditions `name=value` on attributes of the call itself. */
  attributes: readonly string[];
}

type Row = [number, string, number, number, number, string, string];

/** Calls of the newest requests of a scope. @param most requests that are looked at */
export async function singleCalls(
  database: Database,
  scope: Scope,
  window: TimeWindow,
  { groups, attributes }: CallFilter,
  most: number
): Promise<Singles<SingleCall> & { requests: number }> {
  const { sql, args } = requestsFilter(scope, window);
  const ofGroups = groups === null ? '' : ' AND s.call_group_id IN (SELECT value FROM json_each(?))';
  const conditions = attributes.map((pair) => [
    pair.slice(0, pair.indexOf('=')),
    pair.slice(pair.indexOf('=') + 1)
  ]);
  const has = conditions
    .map(
      () =>
        ' AND EXISTS (SELECT 1 FROM json_each(s.attributes) j WHERE j.value->>0 = ? AND CAST(j.value->>1 AS TEXT) = ?)'
    )
    .join('');
  // A trace goes through other services too: their calls are not this one's.
  const byService = scope.service
    ? ' AND s.resource_id IN (SELECT o.id FROM resources o JOIN services v ON v.id = o.service_id WHERE v.name = ?)'
    : '';
  const from = `(SELECT r.trace_id AS trace, min(r.start_us) AS at FROM requests r WHERE ${sql} GROUP BY r.trace_id ORDER BY at DESC LIMIT ${most})`;
  const [[requests], rows] = await Promise.all([
    jsonOf<number>(
      database,
      `SELECT json_array(count(*)) FROM (SELECT 1 FROM requests r WHERE ${sql} GROUP BY r.trace_id LIMIT ${most + 1})`,
      args
    ),
    jsonOf<Row>(
      database,
      `SELECT json_group_array(json_array(t.at, t.trace, s.duration_ns, s.status, s.call_group_id, s.origin, s.attributes))
        FROM ${from} t JOIN spans s ON s.trace_id = t.trace WHERE s.call_group_id IS NOT NULL${ofGroups}${byService}${has}`,
      [
        ...args,
        ...(groups === null ? [] : [JSON.stringify(groups)]),
        ...(scope.service ? [scope.service] : []),
        ...conditions.flat()
      ]
    )
  ]);
  // Calls of one kind tell the same of themselves.
  const known = new Map<string, Attributes>();
  const attributesOf = (text: string): Attributes => {
    const one = known.get(text) ?? attributesFrom(text);
    known.set(text, one);
    return one;
  };
  const list = rows.map(([requestUs, traceId, durationNs, status, groupId, origin, text]): SingleCall => {
    const own = attributesOf(text);
    return {
      requestUs,
      traceId,
      durationNs,
      failed: isFailed({ status, attributes: own }),
      groupId,
      origin,
      attributes: own
    };
  });
  return { list, isCut: requests > most, requests: Math.min(requests, most) };
}
