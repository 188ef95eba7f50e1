import { NO_PICKS, type Scope, type TimeWindow } from '$lib/scope';
import { select } from '../../../db/reader';
import { requestsFilter } from '../../filter';

/** An endpoint whose requests waited for a connection of a pool. */
export interface PoolWaiter {
  service: string;
  endpoint: string;
  /** Requests that are kept. */
  requests: number;
}

/** The rule that finds a wait in a request. */
export const WAITED_RULE = 'waits-for-connection';
const MOST = 20;

/** The endpoints on a host whose kept requests waited for a connection, those of the most first. */
export function poolWaiters(scope: Scope, window: TimeWindow, host: string): Promise<PoolWaiter[]> {
  const filter = requestsFilter({ ...scope, ...NO_PICKS, endpoint: '', host, finding: WAITED_RULE }, window);
  return select<PoolWaiter>(
    `SELECT s.name AS service, e.name AS endpoint, count(*) AS requests FROM requests r JOIN endpoints e ON e.id = r.endpoint_id
      JOIN services s ON s.id = e.service_id WHERE ${filter.sql} GROUP BY e.id ORDER BY requests DESC LIMIT ${MOST}`,
    filter.args
  );
}
