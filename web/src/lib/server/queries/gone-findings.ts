import { goneSince, type Gone } from '@tromix/core/findings/gone';
import { groupBy } from '@tromix/core/group-by';
import type { Scope, TimeWindow } from '$lib/scope';
import { select, selectJson } from '../db/reader';
import { FINDING_ROLLUP } from '../ingest/rollup-shapes';
import { rangesOf } from './bins';
import { namesFilter } from './filter';
import type { Group } from './found-group';
import { cohortTotals, timesOf, wholeMargin } from './rollups';

/** Since which release each of some groups is gone. */
export async function goneOf(
  groups: readonly Group[],
  scope: Scope,
  window: TimeWindow,
  nowMs: number
): Promise<Map<Group, Gone>> {
  const gone = new Map<Group, Gone>();
  // Under one release alone there is nothing to compare.
  if (groups.length === 0 || scope.release) return gone;
  const names = namesFilter(scope, 'f');
  const times = timesOf(rangesOf(window, nowMs, FINDING_ROLLUP.steps), wholeMargin(scope), 'f');
  const keys = JSON.stringify(groups.map(({ endpoint_id, subject_id }) => [endpoint_id, subject_id]));
  const [found, cohorts, releases] = await Promise.all([
    selectJson<[endpointId: number, subjectId: number, releaseId: number, requests: number]>(
      `SELECT json_group_array(json_array(endpoint_id, subject_id, release_id, requests)) FROM (
        SELECT f.endpoint_id, f.subject_id, f.release_id, sum(f.requests) AS requests FROM finding_rollups f
        WHERE ${times.sql}${names.sql} AND (f.endpoint_id, f.subject_id) IN (SELECT value->>0, value->>1 FROM json_each(?))
        GROUP BY f.endpoint_id, f.subject_id, f.release_id)`,
      [...times.args, ...names.args, keys]
    ),
    cohortTotals(scope, window, nowMs),
    select<{ id: number; name: string; firstUs: number }>(
      'SELECT id, name, first_us AS firstUs FROM releases'
    )
  ]);
  const releaseOf = new Map(releases.map((row) => [row.id, row]));
  const foundIn = new Map(
    found.map(([endpoint, subject, release, count]) => [`${endpoint} ${subject} ${release}`, count])
  );
  const byEndpoint = groupBy(cohorts, ({ endpointId }) => endpointId);
  for (const group of groups) {
    const byRelease = groupBy(byEndpoint.get(group.endpoint_id) ?? [], ({ releaseId }) => releaseId);
    const since = goneSince(
      [...byRelease].map(([id, list]) => ({
        release: releaseOf.get(id)!.name,
        firstUs: releaseOf.get(id)!.firstUs,
        requests: list.reduce((sum, { count }) => sum + count, 0),
        found: foundIn.get(`${group.endpoint_id} ${group.subject_id} ${id}`) ?? 0
      }))
    );
    if (since) gone.set(group, since);
  }
  return gone;
}
