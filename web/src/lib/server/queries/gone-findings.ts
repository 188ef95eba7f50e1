import { goneSince, type Gone } from '@tromix/core/findings/gone';
import { groupBy } from '@tromix/core/group-by';
import { STEPS, type Step } from '$lib/roll-up-steps';
import type { Scope, TimeWindow } from '$lib/scope';
import { select, selectJson } from '../db/reader';
import { FINDING_ROLLUP } from '../ingest/rollup-shapes';
import { rangesOf } from './bins';
import { namesFilter, type Filter } from './filter';
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
  const [found, cohorts, releases, runs] = await Promise.all([
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
    ),
    scope.run ? NO_RUNS : runTallies(scope, window, nowMs, keys)
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
        found: foundIn.get(`${group.endpoint_id} ${group.subject_id} ${id}`) ?? 0,
        ofRuns: {
          requests: runs.requests.get(`${group.endpoint_id} ${id}`) ?? 0,
          found: runs.found.get(`${group.endpoint_id} ${group.subject_id} ${id}`) ?? 0
        }
      }))
    );
    if (since) gone.set(group, since);
  }
  return gone;
}

/** What load runs caused: requests by endpoint and release, and of them those with a finding, by its subject too. */
interface RunTallies {
  requests: Map<string, number>;
  found: Map<string, number>;
}
const NO_RUNS: RunTallies = { requests: new Map(), found: new Map() };

async function runTallies(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  keys: string
): Promise<RunTallies> {
  const [{ runs }] = await select<{ runs: number }>('SELECT count(*) AS runs FROM load_runs');
  if (runs === 0) return NO_RUNS;
  const names = namesFilter(scope, 'm');
  const timesIn = (steps: readonly Step[]): Filter => {
    const ranges = rangesOf(window, nowMs, steps);
    return {
      sql: `(${ranges.map(() => '(m.step = ? AND m.margin < 0 AND m.at >= ? AND m.at < ?)').join(' OR ')})`,
      args: ranges.flatMap(({ step, from, to }) => [step, from, to])
    };
  };
  const [ofRequests, ofFindings] = [timesIn(STEPS), timesIn(FINDING_ROLLUP.steps)];
  const [requests, found] = await Promise.all([
    selectJson<[string, number]>(
      `SELECT json_group_array(json_array(k, n)) FROM (
        SELECT m.endpoint_id || ' ' || m.release_id AS k, sum(m.count) AS n FROM rollups m WHERE ${ofRequests.sql}${names.sql} GROUP BY k)`,
      [...ofRequests.args, ...names.args]
    ),
    selectJson<[string, number]>(
      `SELECT json_group_array(json_array(k, n)) FROM (
        SELECT m.endpoint_id || ' ' || m.subject_id || ' ' || m.release_id AS k, sum(m.requests) AS n FROM finding_rollups m
        WHERE ${ofFindings.sql}${names.sql} AND (m.endpoint_id, m.subject_id) IN (SELECT value->>0, value->>1 FROM json_each(?)) GROUP BY k)`,
      [...ofFindings.args, ...names.args, keys]
    )
  ]);
  return { requests: new Map(requests), found: new Map(found) };
}
