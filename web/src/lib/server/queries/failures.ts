import { groupBy } from '@tromix/core/group-by';
import { greatestOf, leastOf } from '@tromix/core/stats/extremes';
import type { FailureMark, FailureState } from '@tromix/core/failures/mark-state';
import type { FailureKind } from '@tromix/core/failures/failure-kind';
import type { FailureIdentity } from '@tromix/core/failures/identity';
import { scopeWindow, type Scope, type TimeWindow } from '$lib/scope';
import type { Step } from '$lib/roll-up-steps';
import { select, selectJson } from '../db/reader';
import { FAILURE_ROLLUP } from '../ingest/rollup-shapes';
import { binsOf, rangesOf, seriesStep, type BinRange } from './bins';
import { namesFilter, singleFilter, type Filter } from './filter';
import { readRanges } from './remembered';
import { markedOf } from './failure-marks';
import type { Merges } from '../db/merges';
import { loadMerges } from './failure-merges';
import { timesOf, wholeMargin } from './rollups';

/** A group of failures in a scope. */
export interface FailureGroup extends FailureIdentity {
  id: number;
  /** How often it happened, and in how many requests. */
  times: number;
  requests: number;
  /** How often it starts here rather than passes another on; and how often the outermost request failed of it. */
  starts: number;
  seen: number;
  /** Whom the requests that are kept name; 0 where they name nobody. */
  people: number;
  /** In all that is known, to the minute where minutes are kept; epoch milliseconds. */
  firstMs: number;
  lastMs: number;
  /** How often in each bin of the window. */
  series: number[];
  state: FailureState;
  mark: FailureMark | null;
}

export interface FailureList {
  groups: FailureGroup[];
  /** Groups there are, listed or not. */
  count: number;
  times: number;
  binMs: number;
  /** When the first bin begins, epoch milliseconds. */
  fromMs: number;
}

const UNMARKED: Pick<FailureGroup, 'state' | 'mark'> = { state: { state: 'open', since: '' }, mark: null };
/** Groups that are listed: those that happened most often. */
const MAX_LISTED = 200;
const MAX_BINS = 96;
const { steps } = FAILURE_ROLLUP;
const MINUTE_MS = 60_000;

type Sums = [groupId: number, times: number, requests: number, starts: number, seen: number];

/** Which failures are listed. */
export interface FailureFilter {
  /** This group alone. */
  only?: number;
  kind?: FailureKind;
  /** Those of which no request of a person failed; or those that reached somebody. */
  handled?: 'caught' | 'reached';
}

/** The failures of a scope by group, and when they happened. */
export async function failuresOf(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  { only = 0, kind, handled }: FailureFilter = {}
): Promise<FailureList> {
  const merges = await loadMerges();
  const all = await sumsOf(scope, window, nowMs, only ? merges.membersOf(only) : [], merges);
  const ofKind = kind ? await groupsOfKind(kind, window) : null;
  const sums = all.filter(
    ([id, , , , seen]) =>
      (ofKind ? merges.membersOf(id).some((member) => ofKind.has(member)) : true) &&
      (handled === undefined || (handled === 'caught') === (seen === 0))
  );
  const listed = sums.slice(0, MAX_LISTED);
  const ids = listed.map(([id]) => id);
  const step = seriesStep(window, nowMs, MAX_BINS, steps);
  const members = ids.flatMap(merges.membersOf);
  const [identities, people, known, series, marks] = await Promise.all([
    identitiesOf(ids),
    peopleOf(members, scope, window),
    knownSince(members).then((parts) => sinceOfAll(parts, merges)),
    seriesOf(members, scope, window, step, merges),
    markedOf(ids)
  ]);
  const bins = binsOf(window, step);
  return {
    groups: listed.flatMap(([id, times, requests, starts, seen]) => {
      const identity = identities.get(id);
      const since = known.get(id);
      if (!identity || !since) return [];
      const counts = new Array<number>(Math.max(1, bins.to - bins.from)).fill(0);
      for (const [at, count] of series.get(id) ?? []) counts[at - bins.from] += count;
      return {
        ...identity,
        id,
        times,
        requests,
        starts,
        seen,
        people: people.get(id) ?? 0,
        ...since,
        series: counts,
        ...(marks.get(id) ?? UNMARKED)
      };
    }),
    count: sums.length,
    times: sums.reduce((sum, [, times]) => sum + times, 0),
    binMs: step * MINUTE_MS,
    fromMs: bins.from * step * MINUTE_MS
  };
}

const MOST_FAILING = 3;
/** So many are looked at: some may be marked. */
const FAILING_LOOKED_AT = 12;

/** A group of failures as other views mention it. */
export type FailingGroup = FailureIdentity & Pick<FailureGroup, 'id' | 'times' | 'state' | 'mark'>;

/** The most frequent groups that start in a scope and are open. */
export async function mostFailing(scope: Scope, nowMs: number): Promise<FailingGroup[]> {
  const merges = await loadMerges();
  const sums = await sumsOf(scope, scopeWindow(scope, nowMs), nowMs, [], merges);
  const looked = sums.filter(([, , , starts]) => starts > 0).slice(0, FAILING_LOOKED_AT);
  const ids = looked.map(([id]) => id);
  const [identities, marks] = await Promise.all([identitiesOf(ids), markedOf(ids)]);
  return looked
    .flatMap(([id, times]): FailingGroup[] => {
      const identity = identities.get(id);
      return identity ? [{ id, times, ...identity, ...(marks.get(id) ?? UNMARKED) }] : [];
    })
    .filter(({ state: { state } }) => state === 'open' || state === 'back')
    .slice(0, MOST_FAILING);
}

/** The most frequent groups that a call itself tells of, where no line of the program's own code does. @param call as its group is called */
export async function failuresOfCall(scope: Scope, nowMs: number, call: string): Promise<FailingGroup[]> {
  const { groups } = await failuresOf(scope, scopeWindow(scope, nowMs), nowMs);
  return groups.filter(({ endpoint }) => endpoint.endsWith(`: ${call}`)).slice(0, MOST_FAILING);
}

/** Groups that were first told of so; of crashes also those of which a process ended within the window. */
async function groupsOfKind(kind: FailureKind, window: TimeWindow): Promise<Set<number>> {
  const crashed =
    kind === 'crash'
      ? ` UNION SELECT group_id FROM failures WHERE trace_id = '' AND span_id = '' AND at_span_id <> '' AND start_us >= ?2 AND start_us < ?3`
      : '';
  const ids = await selectJson<number>(
    `SELECT json_group_array(id) FROM (SELECT id FROM failure_groups WHERE kind = ?1${crashed})`,
    [kind, ...(crashed ? [window.fromUs, window.toUs] : [])]
  );
  return new Set(ids);
}

/** Without names the rows of everything are enough. */
const marginOf = (scope: Scope): number =>
  scope.run || scope.service || scope.endpoint || scope.host || scope.release ? wholeMargin(scope) : 1;
const ofGroups = (only: readonly number[]): Filter => ({
  sql: only.length > 0 ? ' AND f.group_id IN (SELECT value FROM json_each(?))' : '',
  args: only.length > 0 ? [JSON.stringify(only)] : []
});

/** Most frequent first; merged groups as one, in which a request with several of them counts for each. */
async function sumsOf(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  only: readonly number[],
  merges: Merges
): Promise<Sums[]> {
  const names = namesFilter(scope, 'f', 'release');
  const margin = marginOf(scope);
  const group = ofGroups(only);
  const rows = await readRanges(
    ['failures', margin, names, only.join(' ')],
    rangesOf(window, nowMs, steps),
    (part: readonly BinRange[]) => {
      const times = timesOf(part, margin, 'f');
      return selectJson<Sums>(
        `SELECT json_group_array(json_array(group_id, t, r, s, n)) FROM (
        SELECT f.group_id, sum(f.times) AS t, sum(f.requests) AS r, sum(f.starts) AS s, sum(f.seen) AS n FROM failure_rollups f
        WHERE ${times.sql}${names.sql}${group.sql} GROUP BY f.group_id HAVING t > 0)`,
        [...times.args, ...names.args, ...group.args]
      );
    }
  );
  return [...groupBy(rows, ([id]) => merges.of(id))]
    .map(([id, parts]): Sums => {
      const sum = (i: 1 | 2 | 3 | 4): number => parts.reduce((total, part) => total + part[i], 0);
      return [id, sum(1), sum(2), sum(3), sum(4)];
    })
    .sort((a, b) => b[1] - a[1] || a[0] - b[0]);
}

export async function identitiesOf(ids: readonly number[]): Promise<Map<number, FailureIdentity>> {
  const rows = await select<FailureIdentity & { id: number }>(
    `SELECT id, type, message, root_type AS rootType, function, file, endpoint FROM failure_groups
      WHERE id IN (SELECT value FROM json_each(?))`,
    [JSON.stringify(ids)]
  );
  return new Map(rows.map(({ id, ...identity }) => [id, identity]));
}

/** How many people the kept requests of each group name. */
async function peopleOf(
  ids: readonly number[],
  scope: Scope,
  window: TimeWindow
): Promise<Map<number, number>> {
  const names = singleFilter(scope, 'f', 'release');
  const rows = await select<{ id: number; people: number }>(
    `SELECT coalesce(m.into_id, f.group_id) AS id, count(DISTINCT f.person_id) AS people FROM failures f
      LEFT JOIN failure_merges m ON m.group_id = f.group_id WHERE f.start_us >= ? AND f.start_us < ? AND f.person_id > 0 AND f.group_id IN (SELECT value FROM json_each(?))${names.sql}
      GROUP BY 1`,
    [window.fromUs, window.toUs, JSON.stringify(ids), ...names.args]
  );
  return new Map(rows.map(({ id, people }) => [id, people]));
}

/** When each group was first and last seen, wherever: by the finest bins that know it. */
async function knownSince(
  ids: readonly number[]
): Promise<Map<number, Pick<FailureGroup, 'firstMs' | 'lastMs'>>> {
  const bound = (which: 'min' | 'max', step: number): string =>
    `(SELECT ${which}(at) FROM failure_rollups WHERE group_id = g.value AND step = ${step})`;
  const rows = await selectJson<(number | null)[]>(
    `SELECT json_group_array(json_array(g.value, ${steps.flatMap((step) => [bound('min', step), bound('max', step)]).join(', ')})) FROM json_each(?) g`,
    [JSON.stringify(ids)]
  );
  return new Map(
    rows.flatMap(([id, ...bounds]): [number, Pick<FailureGroup, 'firstMs' | 'lastMs'>][] => {
      const known = steps.flatMap((step, i) => {
        const [first, last] = [bounds[2 * i], bounds[2 * i + 1]];
        return first === null || last === null ? [] : [{ step, first: first * step, last: last * step }];
      });
      if (known.length === 0) return [];
      // A coarse bin says more only where it begins before the whole time of which finer ones are kept.
      const finest = known[0];
      const earlier = known
        .filter(({ first, step }) => first + step <= finest.first)
        .map(({ first }) => first);
      const firstMs = leastOf([finest.first, ...earlier]) * MINUTE_MS;
      const lasts = known.filter(({ step }) => step === finest.step).map(({ last }) => last);
      return [[id!, { firstMs, lastMs: greatestOf(lasts) * MINUTE_MS }]];
    })
  );
}

/** Of merged groups the earliest and the latest. */
function sinceOfAll(
  parts: ReadonlyMap<number, Pick<FailureGroup, 'firstMs' | 'lastMs'>>,
  merges: Merges
): Map<number, Pick<FailureGroup, 'firstMs' | 'lastMs'>> {
  const all = [...groupBy([...parts], ([id]) => merges.of(id))];
  return new Map(
    all.map(([id, members]) => [
      id,
      {
        firstMs: leastOf(members.map(([, { firstMs }]) => firstMs)),
        lastMs: greatestOf(members.map(([, { lastMs }]) => lastMs))
      }
    ])
  );
}

/** How often each group happened in each bin. */
async function seriesOf(
  ids: readonly number[],
  scope: Scope,
  window: TimeWindow,
  step: Step,
  merges: Merges
): Promise<Map<number, [at: number, times: number][]>> {
  const names = namesFilter(scope, 'f', 'release');
  const times = timesOf([{ step, ...binsOf(window, step) }], marginOf(scope), 'f');
  const rows = await selectJson<[groupId: number, at: number, times: number]>(
    `SELECT json_group_array(json_array(group_id, at, t)) FROM (
      SELECT f.group_id, f.at, sum(f.times) AS t FROM failure_rollups f
      WHERE ${times.sql}${names.sql} AND f.group_id IN (SELECT value FROM json_each(?)) GROUP BY f.group_id, f.at)`,
    [...times.args, ...names.args, JSON.stringify(ids)]
  );
  const series = new Map<number, [number, number][]>();
  for (const [member, at, count] of rows) {
    const id = merges.of(member);
    const list = series.get(id);
    if (list) list.push([at, count]);
    else series.set(id, [[at, count]]);
  }
  return series;
}
