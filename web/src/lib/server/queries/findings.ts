import type { Finding } from '@tromix/core/findings/finding';
import { ruleText } from '@tromix/core/findings/all-rules';
import { REQUEST_RULES } from '@tromix/core/findings/request-rules';
import { scopeSeverity, together, type Cohort, type FirstRequest } from '@tromix/core/findings/over-many';
import { findOverMany, type ManyFinding } from '@tromix/core/findings/over-many-findings';
import { growthSentence } from '@tromix/core/findings/loop-growth';
import { groupBy } from '@tromix/core/group-by';
import { linearFit } from '@tromix/core/stats/linear-fit';
import type { Scope, TimeWindow } from '$lib/scope';
import { select, selectJson } from '../db/reader';
import { FINDING_ROLLUP } from '../ingest/rollup-shapes';
import { rangesOf, type BinRange } from './bins';
import { namesFilter, singleFilter } from './filter';
import { markOf, marksOf } from './finding-marks';
import { isOpen } from '$lib/open-finding';
import type { FoundGroup, Group } from './found-group';
import { goneOf } from './gone-findings';
import { readRanges } from './remembered';
import { cohortTotals, latency, timesOf, wholeMargin } from './rollups';

/** Groups that are ranked together with what was found over many requests. */
const MAX_GROUPS = 200;
/** Groups summed up at most for a part of the window. */
const MAX_SUMS = 2000;

/** What is to be found out, and how many at most. */
export interface FindingChoice {
  limit: number;
  /** Also those somebody set aside. */
  aside: boolean;
}

/**
 * The findings of all kept requests in a scope, and those over many requests, costliest first.
 * @param known all time in the scope, nanoseconds; it need not be known yet.
 */
export async function findingsOf(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  known: number | Promise<number>,
  choice: FindingChoice
): Promise<FoundGroup[]> {
  const [{ chosen, groups }, profiles, allNs] = await Promise.all([
    chosenOf(scope, window, nowMs, known, choice),
    profilesIn(window),
    known
  ]);
  const [typical, gone] = await Promise.all([
    typicalRequests(groups, scope, window, profiles),
    goneOf(groups, scope, window, nowMs)
  ]);
  return chosen.map(({ group, found, mark }) => ({
    ...(group ? fromGroup(group, typical.get(group), allNs) : fromScopeFinding(found!, allNs)),
    gone: (group && gone.get(group)) ?? null,
    mark
  }));
}

/** How many of the same findings are open: not set aside, and still there. */
export async function countOpenFindings(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  known: number | Promise<number>,
  limit: number
): Promise<number> {
  const { chosen, groups } = await chosenOf(scope, window, nowMs, known, { limit, aside: true });
  const gone = await goneOf(groups, scope, window, nowMs);
  return chosen.filter(({ group, mark }) => isOpen({ mark, gone: (group && gone.get(group)) ?? null }))
    .length;
}

interface Chosen {
  /** Alike findings of requests; null for what was found over many requests. */
  group: Group | null;
  found: ManyFinding | null;
  mark: FoundGroup['mark'];
}

/** What is shown of all that was found in a scope, costliest first. */
async function chosenOf(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  known: number | Promise<number>,
  { limit, aside }: FindingChoice
): Promise<{ chosen: Chosen[]; groups: Group[] }> {
  const [inRequests, overMany, marks] = await Promise.all([
    requestGroups(scope, window, nowMs),
    scopeFindings(scope, window, nowMs, known),
    marksOf()
  ]);
  const costOf = ({ group, found }: Chosen): number => group?.cost ?? found!.costNs;
  const chosen = [
    ...inRequests.map((group): Chosen => ({
      group,
      found: null,
      mark: markOf(marks, { ...group, costNs: group.cost })
    })),
    ...overMany.map((found): Chosen => ({ group: null, found, mark: markOf(marks, found) }))
  ]
    .filter(({ mark }) => aside || mark === null || mark.back)
    .sort((a, b) => costOf(b) - costOf(a))
    .slice(0, limit);
  return { chosen, groups: chosen.flatMap(({ group }) => group ?? []) };
}

type GroupSums = [endpointId: number, subjectId: number, requests: number, costNs: number];

/** The findings of requests, alike ones together, costliest first. */
async function requestGroups(scope: Scope, window: TimeWindow, nowMs: number): Promise<Group[]> {
  const names = namesFilter(scope, 'f');
  const margin = scope.run || scope.host || scope.release ? wholeMargin(scope) : 1;
  const ranges = rangesOf(window, nowMs, FINDING_ROLLUP.steps);
  const read = (part: readonly BinRange[]): Promise<GroupSums[]> => {
    const times = timesOf(part, margin, 'f');
    return selectJson<GroupSums>(
      `SELECT json_group_array(json_array(endpoint_id, subject_id, requests, cost)) FROM (
        SELECT f.endpoint_id, f.subject_id, sum(f.requests) AS requests, sum(f.cost_ns) AS cost FROM finding_rollups f
        WHERE ${times.sql}${names.sql} GROUP BY f.endpoint_id, f.subject_id HAVING sum(f.requests) > 0
        ORDER BY cost DESC LIMIT ${MAX_SUMS})`,
      [...times.args, ...names.args]
    );
  };
  let sums = await readRanges(['findings', margin, names], ranges, read);
  // Of very many some may be missing in one part that are among the costliest in both together.
  if (sums.length >= MAX_SUMS) sums = await read(ranges);
  const groups = [...groupBy(sums, ([endpointId, subjectId]) => `${endpointId} ${subjectId}`).values()]
    .map((parts): GroupSums => {
      const sum = (i: 2 | 3): number => parts.reduce((total, part) => total + part[i], 0);
      return [parts[0][0], parts[0][1], sum(2), sum(3)];
    })
    .sort((one, other) => other[3] - one[3])
    .slice(0, MAX_GROUPS);
  return named(groups);
}

async function named(groups: readonly GroupSums[]): Promise<Group[]> {
  const names = await selectJson<
    [place: number, rule: string, subject: string, service: string, endpoint: string]
  >(
    `SELECT json_group_array(json_array(g.key, u.rule, u.subject, s.name, e.name)) FROM json_each(?) g
      CROSS JOIN finding_subjects u ON u.id = g.value->>1 CROSS JOIN endpoints e ON e.id = g.value->>0
      CROSS JOIN services s ON s.id = e.service_id`,
    [JSON.stringify(groups)]
  );
  return names
    .sort(([one], [other]) => one - other)
    .map(([place, rule, subject, service, endpoint]) => {
      const [endpoint_id, subject_id, requests, cost] = groups[place];
      return { endpoint_id, subject_id, rule, subject, requests, cost, service, endpoint };
    });
}

interface NameRow {
  id: number;
  name: string;
}

/** What the roll-ups of a scope say when hosts, releases and first requests are held against each other. */
async function scopeFindings(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  known: number | Promise<number>
): Promise<ManyFinding[]> {
  const [allNs, firsts, totals, endpoints, hosts, releases] = await Promise.all([
    known,
    firstRequests(scope, window),
    cohortTotals(scope, window, nowMs),
    select<NameRow & { service: string }>(
      'SELECT e.id AS id, e.name AS name, s.name AS service FROM endpoints e JOIN services s ON s.id = e.service_id'
    ),
    select<NameRow>('SELECT id, name FROM hosts'),
    select<NameRow & { firstUs: number }>('SELECT id, name, first_us AS firstUs FROM releases')
  ]);
  const endpointOf = new Map(endpoints.map((row) => [row.id, row]));
  const hostOf = new Map(hosts.map((row) => [row.id, row.name]));
  const releaseOf = new Map(releases.map((row) => [row.id, row]));
  const cohorts = totals.map(
    ({ endpointId, hostId, releaseId, count, totalNs, exclusiveNs, sketch }): Cohort => {
      const endpoint = endpointOf.get(endpointId)!;
      const release = releaseOf.get(releaseId)!;
      return {
        service: endpoint.service,
        endpoint: endpoint.name,
        host: hostOf.get(hostId)!,
        release: release.name,
        releaseFirstUs: release.firstUs,
        count,
        totalNs,
        exclusiveNs,
        sketch
      };
    }
  );
  const keyOf = ({ service, endpoint, release }: Pick<Cohort, 'service' | 'endpoint' | 'release'>): string =>
    JSON.stringify([service, endpoint, release]);
  const alike = groupBy(cohorts, keyOf);
  const medianNs = (first: Pick<Cohort, 'service' | 'endpoint' | 'release'>): number =>
    latency(together(alike.get(keyOf(first)) ?? []), [0.5])[0];
  return findOverMany({ cohorts, firsts, medianNs, allNs });
}

/** The first request of each process that began to serve within the window. CROSS JOIN: the few processes are gone through first. */
function firstRequests(scope: Scope, window: TimeWindow): Promise<FirstRequest[]> {
  const names = singleFilter(scope, 'r');
  return select<FirstRequest>(
    `SELECT s.name AS service, e.name AS endpoint, h.name AS host, l.name AS release,
        r.duration_ns AS durationNs, r.exclusive_ns AS exclusiveNs, r.trace_id AS traceId, r.span_id AS spanId
      FROM resources p CROSS JOIN requests r ON r.start_us = p.first_us AND r.resource_id = p.id
      JOIN services s ON s.id = r.service_id JOIN endpoints e ON e.id = r.endpoint_id JOIN hosts h ON h.id = r.host_id
      JOIN releases l ON l.id = r.release_id WHERE p.first_us >= ? AND p.first_us < ?${names.sql} LIMIT 500`,
    [window.fromUs, window.toUs, ...names.args]
  );
}

function fromScopeFinding(found: ManyFinding, allNs: number): FoundGroup {
  const { rule, title, severity, service, endpoint, subject, requests, costNs, sentence, remedy } = found;
  return {
    rule,
    title,
    severity,
    service,
    endpoint,
    subject,
    requests,
    costNs,
    share: allNs > 0 ? costNs / allNs : 0,
    sentence,
    remedy,
    fingerprint: '',
    origin: '',
    typicalCalls: null,
    growth: '',
    example: found.example ?? null,
    narrow: found.narrow ?? {},
    gone: null,
    mark: null
  };
}

interface ProfileSpan {
  service: string;
  host: string;
  fromUs: number;
  toUs: number;
}

function profilesIn(window: TimeWindow): Promise<ProfileSpan[]> {
  return select<ProfileSpan>(
    `SELECT service, host, started_at_us AS fromUs, started_at_us + duration_ns / 1000 AS toUs FROM evidence
      WHERE kind = 'profile' AND started_at_us < ? AND started_at_us + duration_ns / 1000 > ? LIMIT 500`,
    [window.toUs, window.fromUs]
  );
}

/** Of each group so many of the newest are looked at for an example and for how it grows. */
const MAX_CANDIDATES = 80;

/** A figure of a finding that shows how its calls grow; NULL for rules that have none. */
const grown = (figure: 'calls' | 'rows'): string => {
  const cases = REQUEST_RULES.flatMap(({ rule, grows }) =>
    grows ? [`WHEN '${rule}' THEN f.body->>'$.figures.${grows[figure]}'`] : []
  );
  return `CASE f.rule ${cases.join(' ')} END`;
};

interface Typical {
  spanId: string;
  found: Finding;
  growth: string;
}

/** For each group a typical request, and how its calls grow with the data. */
async function typicalRequests(
  groups: readonly Group[],
  scope: Scope,
  window: TimeWindow,
  profiles: readonly ProfileSpan[]
): Promise<Map<Group, Typical>> {
  if (groups.length === 0) return new Map();
  const ofUsers = await candidatesOf(groups, scope, window, NOT_OF_RUNS);
  // A request of a load run stands for others only where there is no other.
  const rest = groups.filter((_, i) => ofUsers[i].length === 0);
  const ofRuns = rest.length > 0 ? await candidatesOf(rest, scope, window, '') : [];
  const candidates = groups.map((group, i) =>
    ofUsers[i].length > 0 ? ofUsers[i] : ofRuns[rest.indexOf(group)]
  );
  const chosen = groups.map((group, i) =>
    candidates[i].length === 0
      ? null
      : typicalOf(
          candidates[i].map(candidateFrom),
          group.cost / Math.max(1, group.requests),
          group.service,
          profiles
        )
  );
  const bodies = await selectJson<[number, string, string]>(
    'SELECT json_group_array(json_array(id, span_id, body)) FROM findings WHERE id IN (SELECT value FROM json_each(?))',
    [JSON.stringify(chosen.map((one) => one?.id ?? 0))]
  );
  const bodyOf = new Map(
    bodies.map(([id, spanId, body]) => [id, { spanId, found: JSON.parse(body) as Finding }])
  );
  const typical = new Map<Group, Typical>();
  groups.forEach((group, i) => {
    const body = bodyOf.get(chosen[i]?.id ?? 0);
    if (body) typical.set(group, { ...body, growth: growthOf(candidates[i]) });
  });
  return typical;
}

const NOT_OF_RUNS = ' AND NOT EXISTS (SELECT 1 FROM load_runs u WHERE u.key = substr(f.trace_id, 1, 16))';

/** The newest findings of each group. @param only a further condition */
function candidatesOf(
  groups: readonly Group[],
  scope: Scope,
  window: TimeWindow,
  only: string
): Promise<CandidateRow[][]> {
  const names = singleFilter(scope, 'f');
  return selectJson<CandidateRow[]>(
    `SELECT json_group_array(json((
        SELECT json_group_array(json_array(id, cost_ns, start_us, host, calls, rows)) FROM (
          SELECT f.id, f.cost_ns, f.start_us, h.name AS host, ${grown('calls')} AS calls, ${grown('rows')} AS rows
            FROM findings f JOIN hosts h ON h.id = f.host_id
            WHERE f.endpoint_id = g.value->>0 AND f.rule = g.value->>1 AND f.subject = g.value->>2
              AND f.start_us >= ? AND f.start_us < ?${names.sql}${only}
            ORDER BY f.start_us DESC LIMIT ${MAX_CANDIDATES})))) FROM json_each(?) g`,
    [
      window.fromUs,
      window.toUs,
      ...names.args,
      JSON.stringify(groups.map(({ endpoint_id, rule, subject }) => [endpoint_id, rule, subject]))
    ]
  );
}

/** @param typical undefined where none of these requests is kept in full any more. */
function fromGroup(group: Group, typical: Typical | undefined, allNs: number): FoundGroup {
  const { rule, subject, requests, cost, service, endpoint } = group;
  const text = ruleText(rule);
  const calls = typical?.found.figures.calls;
  const share = allNs > 0 ? cost / allNs : 0;
  return {
    rule,
    title: text?.manyTitle ?? typical?.found.title ?? text?.name ?? rule,
    severity: scopeSeverity(share),
    service,
    endpoint,
    subject,
    requests,
    costNs: cost,
    share,
    sentence: typical?.found.sentence ?? '',
    remedy: typical?.found.remedy ?? text?.doThis[0] ?? '',
    fingerprint: typical?.found.evidence.fingerprint ?? '',
    origin: typical?.found.evidence.origin ?? '',
    typicalCalls: typeof calls === 'number' ? calls : null,
    growth: typical?.growth ?? '',
    example: typical ? { traceId: typical.found.evidence.traceId, spanId: typical.spanId } : null,
    narrow: {},
    gone: null,
    mark: null
  };
}

/** Calls against the rows of the query that fed them, over the requests with this finding. */
function growthOf(candidates: readonly CandidateRow[]): string {
  const known = candidates.filter((row) => row[4] !== null && row[5] !== null);
  const rows = known.map((row) => row[5]!);
  return growthSentence(
    linearFit(
      rows,
      known.map((row) => row[4]!)
    ),
    new Set(rows).size
  );
}

type CandidateRow = [
  id: number,
  costNs: number,
  startUs: number,
  host: string,
  calls: number | null,
  fedByRows: number | null
];

interface Candidate {
  id: number;
  costNs: number;
  startUs: number;
  host: string;
}

const candidateFrom = ([id, costNs, startUs, host]: CandidateRow): Candidate => ({
  id,
  costNs,
  startUs,
  host
});

/** The one of middling cost; of those within half and double of it rather one that a profile of its service covers. */
function typicalOf(
  candidates: readonly Candidate[],
  meanNs: number,
  service: string,
  profiles: readonly ProfileSpan[]
): Candidate {
  const covered = ({ startUs, costNs, host }: Candidate): boolean =>
    profiles.some(
      (profile) =>
        profile.service === service &&
        (profile.host === '' || profile.host === host) &&
        profile.fromUs <= startUs &&
        profile.toUs > startUs + costNs / 1000
    );
  const near = candidates.filter(({ costNs }) => costNs >= meanNs / 2 && costNs <= meanNs * 2);
  const inProfiles = near.filter(covered);
  const choice = inProfiles.length > 0 ? inProfiles : candidates;
  return choice.reduce((best, one) =>
    Math.abs(one.costNs - meanNs) < Math.abs(best.costNs - meanNs) ? one : best
  );
}
