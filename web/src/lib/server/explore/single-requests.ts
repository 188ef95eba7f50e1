import type { Scope, TimeWindow } from '$lib/scope';
import { jsonOf, type Database } from '../db/database';
import { requestsFilter } from '../queries/filter';

/** A request that is kept, as far as figures need it. */
export interface SingleRequest {
  startUs: number;
  durationNs: number;
  failed: boolean;
  calls: number;
  endpointId: number;
  hostId: number;
  releaseId: number;
  /** Numbers of its attribute values. */
  pairs: string;
}

/** What was read, and whether there is more. */
export interface Singles<T> {
  list: T[];
  /** Of all that match only the newest were read. */
  isCut: boolean;
}

type Row = [number, number, number, number, number, number, number, string];

/** The newest requests of a scope, at most so many; conditions on attributes count. */
export async function singleRequests(
  database: Database,
  scope: Scope,
  window: TimeWindow,
  most: number
): Promise<Singles<SingleRequest>> {
  const { sql, args } = requestsFilter(scope, window);
  const rows = await jsonOf<Row>(
    database,
    `SELECT json_group_array(json_array(start_us, duration_ns, failed, call_count, endpoint_id, host_id, release_id, pairs)) FROM (
      SELECT r.start_us, r.duration_ns, r.failed, r.call_count, r.endpoint_id, r.host_id, r.release_id, r.pairs FROM requests r
        WHERE ${sql} ORDER BY r.start_us DESC LIMIT ${most + 1})`,
    args
  );
  const list = rows
    .slice(0, most)
    .map(([startUs, durationNs, failed, calls, endpointId, hostId, releaseId, pairs]): SingleRequest => ({
      startUs,
      durationNs,
      failed: failed === 1,
      calls,
      endpointId,
      hostId,
      releaseId,
      pairs
    }));
  return { list, isCut: rows.length > most };
}
