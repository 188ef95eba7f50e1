import { goneSince, seenAgainUs, type Gone, type ReleaseTally } from '@tromix/core/findings/gone';
import { STEPS, type Step } from '$lib/roll-up-steps';
import type { Scope, TimeWindow } from '$lib/scope';
import { select, selectJson } from '../db/reader';
import { FINDING_ROLLUP } from '../ingest/rollup-shapes';
import { rangesOf } from './bins';
import { namesFilter, type Filter } from './filter';
import type { Group } from './found-group';
import { cohortTotals, timesOf, wholeMargin } from './rollups';

const MINUTE_US = 60e6;

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
  const [found, served, releases] = await Promise.all([
    foundIn(groups, scope, window, nowMs),
    servedIn(scope, window, nowMs),
    select<Release>('SELECT id, name, first_us AS firstUs FROM releases')
  ]);
  const releaseOf = new Map(releases.map((row) => [row.id, row]));
  for (const group of groups) {
    const talliesOf = (requests: Served): ReleaseTally[] =>
      [...(served.requests.get(group.endpoint_id)?.keys() ?? [])].map((id) =>
        tallyOf(releaseOf.get(id)!, group, requests, found)
      );
    const tallies = talliesOf(served);
    const againUs = seenAgainUs(tallies);
    // Rare: a release was rolled back, or two run side by side.
    const later =
      againUs === null
        ? tallies
        : talliesOf(await servedIn(scope, { ...window, fromUs: againUs + MINUTE_US }, nowMs));
    const since = goneSince(tallies, later);
    if (since) gone.set(group, since);
  }
  return gone;
}

interface Release {
  id: number;
  name: string;
  firstUs: number;
}

/** Requests of each endpoint under each release, and those of load runs. */
interface Served {
  requests: Map<number, Map<number, number>>;
  /** By endpoint and release. */
  ofRuns: Map<string, number>;
}

/** Requests with a finding, by endpoint, subject and release; of those of load runs; and the last minute in which it may have been found, in epoch microseconds. */
interface Found {
  requests: Map<string, number>;
  ofRuns: Map<string, number>;
  lastUs: Map<string, number>;
}

function tallyOf({ id, name, firstUs }: Release, group: Group, served: Served, found: Found): ReleaseTally {
  const key = `${group.endpoint_id} ${group.subject_id} ${id}`;
  const lastFoundUs = found.lastUs.get(key);
  return {
    release: name,
    firstUs,
    requests: served.requests.get(group.endpoint_id)?.get(id) ?? 0,
    found: found.requests.get(key) ?? 0,
    ...(lastFoundUs === undefined ? {} : { lastFoundUs }),
    ofRuns: {
      requests: served.ofRuns.get(`${group.endpoint_id} ${id}`) ?? 0,
      found: found.ofRuns.get(key) ?? 0
    }
  };
}
/** @param window nothing is served in one that ends as it begins */
async function servedIn(scope: Scope, window: TimeWindow, nowMs: number): Promise<Served> {
  if (window.fromUs >= window.toUs) return { requests: new Map(), ofRuns: new Map() };
  const [cohorts, ofRuns] = await Promise.all([
    cohortTotals(scope, window, nowMs),
    servedToRuns(scope, window, nowMs)
  ]);
  const requests = new Map<number, Map<number, number>>();
  for (const { endpointId, releaseId, count } of cohorts) {
    const byRelease = requests.get(endpointId) ?? new Map<number, number>();
    byRelease.set(releaseId, (byRelease.get(releaseId) ?? 0) + count);
    requests.set(endpointId, byRelease);
  }
  return { requests, ofRuns };
}

async function servedToRuns(scope: Scope, window: TimeWindow, nowMs: number): Promise<Map<string, number>> {
  if (!(await tellsRunsApart(scope))) return new Map();
  const names = namesFilter(scope, 'm');
  const times = timesOfRuns(window, nowMs, STEPS);
  return new Map(
    await selectJson<[string, number]>(
      `SELECT json_group_array(json_array(k, n)) FROM (
        SELECT m.endpoint_id || ' ' || m.release_id AS k, sum(m.count) AS n FROM rollups m WHERE ${times.sql}${names.sql} GROUP BY k)`,
      [...times.args, ...names.args]
    )
  );
}

async function foundIn(
  groups: readonly Group[],
  scope: Scope,
  window: TimeWindow,
  nowMs: number
): Promise<Found> {
  const names = namesFilter(scope, 'm');
  const keys = JSON.stringify(groups.map(({ endpoint_id, subject_id }) => [endpoint_id, subject_id]));
  const count = (times: Filter): Promise<[key: string, requests: number, lastMinute: number][]> =>
    selectJson(
      `SELECT json_group_array(json_array(k, n, t)) FROM (
        SELECT m.endpoint_id || ' ' || m.subject_id || ' ' || m.release_id AS k, sum(m.requests) AS n, max((m.at + 1) * m.step) - 1 AS t FROM finding_rollups m
        WHERE ${times.sql}${names.sql} AND (m.endpoint_id, m.subject_id) IN (SELECT value->>0, value->>1 FROM json_each(?)) GROUP BY k)`,
      [...times.args, ...names.args, keys]
    );
  const { steps } = FINDING_ROLLUP;
  const [all, ofRuns] = await Promise.all([
    count(timesOf(rangesOf(window, nowMs, steps), wholeMargin(scope))),
    tellsRunsApart(scope).then((apart) => (apart ? count(timesOfRuns(window, nowMs, steps)) : []))
  ]);
  return {
    requests: new Map(all.map(([key, requests]) => [key, requests])),
    ofRuns: new Map(ofRuns.map(([key, requests]) => [key, requests])),
    lastUs: new Map(all.map(([key, , minute]) => [key, minute * MINUTE_US]))
  };
}

/** Where one load run is looked at, what it caused is all there is. */
async function tellsRunsApart(scope: Scope): Promise<boolean> {
  if (scope.run) return false;
  const [{ runs }] = await select<{ runs: number }>('SELECT count(*) AS runs FROM load_runs');
  return runs > 0;
}

/** Condition of what load runs caused in a window. */
function timesOfRuns(window: TimeWindow, nowMs: number, steps: readonly Step[]): Filter {
  const ranges = rangesOf(window, nowMs, steps);
  return {
    sql: `(${ranges.map(() => '(m.step = ? AND m.margin < 0 AND m.at >= ? AND m.at < ?)').join(' OR ')})`,
    args: ranges.flatMap(({ step, from, to }) => [step, from, to])
  };
}
