import { groupBy } from '@tromix/core/group-by';
import { quantiles } from '@tromix/core/stats/percentile';
import type { ExploreChoices, ExploreFigure } from '$lib/explore-choices';
import { groupingOf } from '$lib/explore-choices';
import { scopeWindow, type Scope, type TimeWindow } from '$lib/scope';
import { attributeOf } from '$lib/request-choices';
import { reader, select } from '../db/reader';
import { NOT_SET, valueAmong, valuesOf } from '../queries/attributes';
import { USER_NAMES } from '../queries/filter';
import { groupsById } from '../queries/names-by-id';
import { singleCalls, type SingleCall } from './single-calls';
import { singleRequests, type SingleRequest } from './single-requests';

/** One group, with its figures exact over those that were looked at. */
export interface ExploredGroup {
  value: string;
  count: number;
  failed: number;
  /** Of the time of all that were looked at. */
  share: number;
  meanNs: number;
  p50Ns: number;
  p95Ns: number;
  p99Ns: number;
  slowestNs: number;
  /** Of calls by group: their kind; else ''. */
  kind: string;
  /** The chosen figure by bin; null for a group that is not drawn. */
  series: (number | null)[] | null;
}

export interface Explored {
  window: TimeWindow;
  grouping: string;
  count: number;
  groups: ExploredGroup[];
  /** Groups beyond those that are listed. */
  more: number;
  fromMs: number;
  binMs: number;
  /** Names of attributes of calls, with how many values were seen of each. */
  attributes: { name: string; values: number }[];
  /** Only the newest were looked at; requests that were. */
  isCut: boolean;
  requests: number;
}

/** Requests that are looked at, and requests whose calls are. */
const MOST_REQUESTS = 200_000;
const MOST_CALLING = 2000;
const MOST_GROUPS = 500;
const MOST_DRAWN = 8;
const BINS = 60;

/** What groups have in common, whatever is grouped. */
interface One {
  atUs: number;
  durationNs: number;
  failed: boolean;
  value: string;
  kind: string;
}

/** Groups requests or single calls of a scope, and draws one figure of the greatest groups over time. */
export async function explore(scope: Scope, choices: ExploreChoices, nowMs: number): Promise<Explored> {
  const window = scopeWindow(scope, nowMs);
  const grouping = groupingOf(choices);
  const read =
    choices.of === 'requests'
      ? await readRequests(scope, window, grouping)
      : await readCalls(scope, window, grouping);
  const binMs = Math.max(1000, Math.ceil((window.toUs - window.fromUs) / 1000 / BINS / 1000) * 1000);
  const fromMs = Math.floor(window.fromUs / 1000 / binMs) * binMs;
  const bins = Math.max(1, Math.ceil((window.toUs / 1000 - fromMs) / binMs));
  const all = read.list.reduce((sum, { durationNs }) => sum + durationNs, 0);
  const groups = [...groupBy(read.list, ({ value }) => value)]
    .map(([value, list]) => ({ value, list, figures: figuresOf(list, all) }))
    .sort((a, b) => b.figures.share - a.figures.share);
  return {
    window,
    grouping,
    count: read.list.length,
    groups: groups.slice(0, MOST_GROUPS).map(({ value, list, figures }, i) => ({
      value,
      kind: list[0].kind,
      ...figures,
      series: i < MOST_DRAWN ? seriesOf(list, choices.figure, { fromMs, binMs, bins }) : null
    })),
    more: Math.max(0, groups.length - MOST_GROUPS),
    fromMs,
    binMs,
    attributes: read.attributes,
    isCut: read.isCut,
    requests: read.requests
  };
}

type Figures = Omit<ExploredGroup, 'value' | 'series' | 'kind'>;

function figuresOf(list: readonly One[], allNs: number): Figures {
  const durations = list.map(({ durationNs }) => durationNs);
  const total = durations.reduce((sum, ns) => sum + ns, 0);
  const [p50Ns, p95Ns, p99Ns, slowestNs] = quantiles(durations, [0.5, 0.95, 0.99, 1]);
  return {
    count: list.length,
    failed: list.filter(({ failed }) => failed).length,
    share: allNs > 0 ? total / allNs : 0,
    meanNs: total / list.length,
    p50Ns,
    p95Ns,
    p99Ns,
    slowestNs
  };
}

const OF_BIN: Record<ExploreFigure, (figures: Figures) => number> = {
  count: ({ count }) => count,
  p50: ({ p50Ns }) => p50Ns,
  p95: ({ p95Ns }) => p95Ns,
  p99: ({ p99Ns }) => p99Ns,
  mean: ({ meanNs }) => meanNs,
  failed: ({ failed, count }) => failed / count
};

function seriesOf(
  list: readonly One[],
  figure: ExploreFigure,
  { fromMs, binMs, bins }: { fromMs: number; binMs: number; bins: number }
): (number | null)[] {
  const inBin = groupBy(list, ({ atUs }) => Math.floor((atUs / 1000 - fromMs) / binMs));
  return Array.from({ length: bins }, (_, bin) => {
    const some = inBin.get(bin);
    if (!some) return figure === 'count' ? 0 : null;
    return OF_BIN[figure](figuresOf(some, 0));
  });
}

interface Read {
  list: One[];
  attributes: Explored['attributes'];
  isCut: boolean;
  requests: number;
}

async function readRequests(scope: Scope, window: TimeWindow, grouping: string): Promise<Read> {
  const [{ list, isCut }, valueOf] = await Promise.all([
    singleRequests(await reader(), scope, window, MOST_REQUESTS),
    requestValue(grouping)
  ]);
  return {
    list: list.map((one) => ({
      atUs: one.startUs,
      durationNs: one.durationNs,
      failed: one.failed,
      value: valueOf(one),
      kind: ''
    })),
    attributes: [],
    isCut,
    requests: list.length
  };
}

/** What tells the group of a request. */
async function requestValue(grouping: string): Promise<(request: SingleRequest) => string> {
  const named = async (sql: string): Promise<Map<number, string>> =>
    new Map((await select<{ id: number; name: string }>(sql)).map(({ id, name }) => [id, name]));
  switch (grouping) {
    case 'service': {
      const names = await named(
        'SELECT e.id, s.name FROM endpoints e JOIN services s ON s.id = e.service_id'
      );
      return ({ endpointId }) => names.get(endpointId) ?? '';
    }
    case 'endpoint': {
      const names = await named('SELECT id, name FROM endpoints');
      return ({ endpointId }) => names.get(endpointId) ?? '';
    }
    case 'host': {
      const names = await named('SELECT id, name FROM hosts');
      return ({ hostId }) => names.get(hostId) ?? '';
    }
    case 'release': {
      const names = await named('SELECT id, name FROM releases');
      return ({ releaseId }) => names.get(releaseId) ?? '';
    }
    case 'status':
      return ({ failed }) => (failed ? 'failed' : 'ok');
    default: {
      const values = await valuesOf(grouping === 'user' ? USER_NAMES : [attributeOf(grouping) ?? grouping]);
      return ({ pairs }) => valueAmong(pairs, values);
    }
  }
}

async function readCalls(scope: Scope, window: TimeWindow, grouping: string): Promise<Read> {
  const groups = scope.group === undefined ? null : [scope.group];
  const { list, isCut, requests } = await singleCalls(
    await reader(),
    { ...scope, group: undefined },
    window,
    { groups, attributes: [] },
    MOST_CALLING
  );
  const known = await groupsById([...new Set(list.map(({ groupId }) => groupId))]);
  const attribute = attributeOf(grouping);
  const valueOf = (call: SingleCall): string => {
    if (attribute) return call.attributes.has(attribute) ? String(call.attributes.get(attribute)) : NOT_SET;
    if (grouping === 'status') return call.failed ? 'failed' : 'ok';
    if (grouping === 'origin') return call.origin || NOT_SET;
    const group = known.get(call.groupId);
    return (grouping === 'kind' ? group?.kind : group?.fingerprint) ?? '';
  };
  return {
    list: list.map((call) => ({
      atUs: call.requestUs,
      durationNs: call.durationNs,
      failed: call.failed,
      value: valueOf(call),
      kind: known.get(call.groupId)?.kind ?? ''
    })),
    attributes: attributesIn(list),
    isCut,
    requests
  };
}

/** Values beyond these are counted as so many: an attribute that differs in each call groups nothing. */
const MOST_VALUES = 1000;

function attributesIn(list: readonly SingleCall[]): Explored['attributes'] {
  const seen = new Map<string, Set<unknown>>();
  for (const { attributes } of list)
    for (const [name, value] of attributes) {
      const values = seen.get(name) ?? new Set();
      seen.set(name, values);
      if (values.size < MOST_VALUES) values.add(value);
    }
  return [...seen]
    .map(([name, values]) => ({ name, values: values.size }))
    .sort((a, b) => a.name.localeCompare(b.name));
}
