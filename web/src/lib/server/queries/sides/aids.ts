import { eachSide, type Sides } from '@tromix/core/sides';
import type { Leavable } from '$lib/compared-scopes';
import { scopeWindow, type Scope } from '$lib/scope';
import { selectJson } from '../../db/reader';
import { namesById } from '../names-by-id';
import { pickedFilter } from './picked-filter';

/** A recording or dump that was taken while requests of side B ran. */
export interface Covering {
  id: string;
  kind: 'profile' | 'threads';
  service: string;
  host: string;
  startedAtUs: number;
  /** Requests of side B that ran meanwhile. */
  requests: number;
}

/** What else is known of the moments of side B: where to look next. */
export interface Aids {
  covering: Covering[];
  /** Requests by host, those with the greatest share of B first. */
  hosts: { host: string; requests: Sides<number> }[];
}

const MOST = 5;

export async function aidsFor(
  scopes: Sides<Scope>,
  leave: readonly Leavable[],
  nowMs: number
): Promise<Aids> {
  const filters = eachSide(scopes, (scope) => pickedFilter(scope, leave, scopeWindow(scope, nowMs)));
  const hostsOf = ({ sql, args }: (typeof filters)['before']): Promise<[number, number][]> =>
    selectJson(
      `SELECT json_group_array(json_array(h, n)) FROM (SELECT r.host_id AS h, count(*) AS n FROM requests r WHERE ${sql} GROUP BY h)`,
      args
    );
  const [covering, before, after] = await Promise.all([
    coveringOf(filters.after),
    hostsOf(filters.before),
    hostsOf(filters.after)
  ]);
  const counts = { before: new Map(before), after: new Map(after) };
  const ids = [...new Set([...counts.before.keys(), ...counts.after.keys()])];
  const names = await namesById('hosts', ids);
  return {
    covering,
    hosts: ids
      .map((id) => ({
        host: names.get(id) ?? '',
        requests: eachSide(counts, (side) => side.get(id) ?? 0)
      }))
      .sort((a, b) => b.requests.after - a.requests.after)
  };
}

/** Profiles and thread dumps of a service and host that requests of the side ran on. */
function coveringOf({ sql, args }: ReturnType<typeof pickedFilter>): Promise<Covering[]> {
  return selectJson<Covering>(
    `SELECT json_group_array(json_object('id', id, 'kind', kind, 'service', service, 'host', host, 'startedAtUs', at, 'requests', n)) FROM (
      SELECT v.id, v.kind, v.service, v.host, v.started_at_us AS at, count(*) AS n
      FROM evidence v CROSS JOIN requests r JOIN services s ON s.id = r.service_id JOIN hosts h ON h.id = r.host_id
      WHERE v.kind IN ('profile', 'threads') AND (v.service = '' OR v.service = s.name) AND (v.host = '' OR v.host = h.name)
        AND r.start_us < v.started_at_us + max(1, v.duration_ns / 1000) AND r.start_us + r.duration_ns / 1000 > v.started_at_us AND ${sql}
      GROUP BY v.id ORDER BY n DESC LIMIT ${MOST})`,
    args
  );
}
