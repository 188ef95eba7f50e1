import type { FailureCohort, FailureFinding } from '@tromix/core/findings/failure-finding';
import { findInFailures, type FailureRule } from '@tromix/core/findings/failure-rules';
import type { Station } from '@tromix/core/failures/trace-failures';
import type { Scope, TimeWindow } from '$lib/scope';
import { selectJson } from '../db/reader';
import { FAILURE_ROLLUP } from '../ingest/rollup-shapes';
import { rangesOf } from './bins';
import { isOfGroup } from '../db/of-group';
import { namesFilter } from './filter';
import { timesOf, wholeMargin } from './rollups';

type CohortRow = [
  service: string,
  endpoint: string,
  host: string,
  release: string,
  releaseFirstUs: number,
  failed: number,
  requests: number
];

/** What the rules find in a group of failures: by release and host, of the endpoints it happens in. */
export async function failureFindings(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  id: number,
  name: string,
  ways: readonly { stations: Station[]; times: number }[]
): Promise<FailureFinding<FailureRule>[]> {
  return findInFailures({
    name,
    cohorts: await cohortsOf(scope, window, nowMs, id),
    ways: ways.map(({ stations, times }) => ({ services: stations.map(({ service }) => service), times }))
  });
}

async function cohortsOf(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  id: number
): Promise<FailureCohort[]> {
  const ranges = rangesOf(window, nowMs, FAILURE_ROLLUP.steps);
  const margin = wholeMargin(scope);
  const ofFailures = timesOf(ranges, margin, 'f');
  const ofRequests = timesOf(ranges, margin, 'm');
  const names = namesFilter(scope, 'm');
  const rows = await selectJson<CohortRow>(
    `WITH failing AS (SELECT f.endpoint_id, f.host_id, f.release_id, sum(f.requests) AS failed FROM failure_rollups f
        WHERE ${ofFailures.sql} AND ${isOfGroup('f.group_id', '?')} AND f.endpoint_id > 0 GROUP BY f.endpoint_id, f.host_id, f.release_id)
      SELECT json_group_array(json_array(s.name, e.name, h.name, l.name, l.first_us, coalesce(g.failed, 0), a.n)) FROM (
        SELECT m.endpoint_id, m.host_id, m.release_id, sum(m.count) AS n FROM rollups m
          WHERE ${ofRequests.sql} AND m.endpoint_id IN (SELECT endpoint_id FROM failing)${names.sql}
          GROUP BY m.endpoint_id, m.host_id, m.release_id) a
      JOIN endpoints e ON e.id = a.endpoint_id JOIN services s ON s.id = e.service_id JOIN hosts h ON h.id = a.host_id
      JOIN releases l ON l.id = a.release_id
      LEFT JOIN failing g ON g.endpoint_id = a.endpoint_id AND g.host_id = a.host_id AND g.release_id = a.release_id`,
    [...ofFailures.args, id, id, ...ofRequests.args, ...names.args]
  );
  return rows.map(([service, endpoint, host, release, releaseFirstUs, failed, requests]) => ({
    service,
    endpoint,
    host,
    release,
    releaseFirstUs,
    failed,
    requests
  }));
}
