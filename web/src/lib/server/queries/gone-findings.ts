import { goneSince, seenAgainUs, type Gone, type ReleaseTally } from '@tromix/core/findings/gone';
import { ROLLUP_DAYS, STEPS, type Step } from '$lib/roll-up-steps';
import type { Scope, TimeWindow } from '$lib/scope';
import { select, selectJson } from '../db/reader';
import { FINDING_ROLLUP } from '../ingest/rollup-shapes';
import { rangesOf } from './bins';
import { namesFilter, type Filter } from './filter';
import type { Group } from './found-group';
import { cohortTotals, timesOf, totalsIn, wholeMargin } from './rollups';

const MINUTE_US = 60e6;
const LONGEST_BIN_US = Math.max(...FINDING_ROLLUP.steps) * MINUTE_US;

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
  for (const group of groups) {
    const talliesOf = (requests: Served, lastUs = found.lastUs): ReleaseTally[] =>
      releases
        .filter(({ id }) => served.requests.has(`${group.endpoint_id} ${id}`))
        .map((release) => tallyOf(release, group, requests, { ...found, lastUs }));
    let tallies = talliesOf(served);
    if (goneSince(tallies) === null) continue;
    const byBinsUs = seenAgainUs(tallies);
    // A release and what it mends may lie in one long bin: then the minutes of it tell.
    if (byBinsUs !== null) tallies = talliesOf(served, await lastMinutes(group, scope, byBinsUs, nowMs));
    const againUs = seenAgainUs(tallies);
    // Rare: a release was rolled back, or two run side by side.
    const later =
      againUs === null ? tallies : talliesOf(await servedFrom(againUs + MINUTE_US, scope, window, nowMs));
    const since = goneSince(tallies, later);
    if (since) gone.set(group, since);
  }
  return gone;
}

/** When one group was last found under each release, to the minute where minutes are kept, in the day up to a moment. */
async function lastMinutes(
  group: Group,
  scope: Scope,
  untilUs: number,
  nowMs: number
): Promise<Found['lastUs']> {
  const day = { fromUs: untilUs + MINUTE_US - LONGEST_BIN_US, toUs: untilUs + MINUTE_US };
  const isKept = nowMs * 1000 - day.fromUs < ROLLUP_DAYS[1] * 1440 * MINUTE_US;
  return (await foundIn([group], scope, day, nowMs, isKept ? [1] : undefined)).lastUs;
}

interface Release {
  id: number;
  name: string;
  firstUs: number;
}

/** Requests by endpoint and release, and those of load runs. */
interface Served {
  requests: Map<string, number>;
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
    requests: served.requests.get(`${group.endpoint_id} ${id}`) ?? 0,
    found: found.requests.get(key) ?? 0,
    ...(lastFoundUs === undefined ? {} : { lastFoundUs }),
    ofRuns: {
      requests: served.ofRuns.get(`${group.endpoint_id} ${id}`) ?? 0,
      found: found.ofRuns.get(key) ?? 0
    }
  };
}

/** Of a long window, to whole bins of a coarse step. */
async function servedIn(scope: Scope, window: TimeWindow, nowMs: number): Promise<Served> {
  const [cohorts, ofRuns] = await Promise.all([
    cohortTotals(scope, window, nowMs),
    servedToRuns(scope, window, nowMs)
  ]);
  const requests = new Map<string, number>();
  for (const { endpointId, releaseId, count } of cohorts) {
    const key = `${endpointId} ${releaseId}`;
    requests.set(key, (requests.get(key) ?? 0) + count);
  }
  return { requests, ofRuns };
}

/** To the minute. */
async function servedFrom(
  fromUs: number,
  scope: Scope,
  { toUs }: TimeWindow,
  nowMs: number
): Promise<Served> {
  if (fromUs >= toUs) return { requests: new Map(), ofRuns: new Map() };
  const [totals, ofRuns] = await Promise.all([
    totalsIn(scope, { fromUs, toUs }, nowMs, 'endpoint', 'release'),
    servedToRuns(scope, { fromUs, toUs }, nowMs)
  ]);
  return { requests: new Map([...totals].map(([key, { count }]) => [key, count])), ofRuns };
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
  nowMs: number,
  steps = FINDING_ROLLUP.steps
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
