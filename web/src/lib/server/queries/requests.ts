import { groupBy } from '@tromix/core/group-by';
import { quantiles } from '@tromix/core/stats/percentile';
import { apdexScore, apdexZone, DEFAULT_APDEX_T_MS, type ApdexCounts } from '@tromix/core/stats/apdex';
import { greatestOf } from '@tromix/core/stats/extremes';
import type { Ledger } from '@tromix/core/trace/account';
import type { Sort } from '$lib/request-choices';
import { NO_PICKS, scopeQuery, scopeWindow, type Scope, type TimeWindow } from '$lib/scope';
import { ledgerFrom, IN_COLUMNS } from '../db/ledger-columns';
import { select, selectJson } from '../db/reader';
import { numbersOf, valueAmong, valuesOf } from './attributes';
import { requestsFilter, USER_NAMES } from './filter';
import { totalIn } from './rollups';

export interface RequestRow {
  traceId: string;
  spanId: string;
  service: string;
  endpoint: string;
  host: string;
  release: string;
  startUs: number;
  durationNs: number;
  failed: boolean;
  calls: number;
  spans: number;
  findings: number;
  ledger: Ledger;
  /** Values of the attributes asked for as columns, '' where the request has none. */
  attributes: string[];
}

const ORDERS: Record<Sort, string> = {
  duration: 'r.duration_ns DESC',
  time: 'r.start_us DESC',
  calls: 'r.call_count DESC, r.duration_ns DESC',
  findings: 'r.finding_count DESC, r.duration_ns DESC'
};

export interface RequestGroup {
  value: string;
  count: number;
  failed: number;
  /** Of the time of all that match; nested requests count in both. */
  share: number;
  meanNs: number;
  p50Ns: number;
  p95Ns: number;
  p99Ns: number;
  slowestNs: number;
}

export interface RequestList {
  window: TimeWindow;
  count: number;
  failed: number;
  /** Exact, over all requests that match. */
  p50Ns: number;
  p95Ns: number;
  p99Ns: number;
  slowestNs: number;
  apdex: ApdexCounts & { score: number };
  /** Requests over time, exact. */
  series: { at: number; count: number; failed: number; p50Ns: number; p95Ns: number }[];
  binMs: number;
  rows: RequestRow[];
  /** The one nearest to the median and the slowest of all that match, as the ends of their addresses; null where none matches. */
  typical: string | null;
  slowest: string | null;
  /** By the grouping asked for, most time first; null without one. */
  groups: RequestGroup[] | null;
  /** Requests counted in the scope, kept or not; null where a condition is set that only kept ones can answer. */
  counted: number | null;
}

/** Groups sent at most. */
const MAX_GROUPS = 500;
const SERIES_BINS = 80;

export interface RequestChoice {
  sort: Sort;
  /** '' for none. */
  groupBy: string;
  /** Names of attributes shown as columns. */
  columns: readonly string[];
  /** Rows sent to the list at most; the count above it is of all. */
  most?: number;
}
const USUAL_ROWS = 1000;

export async function requestsOf(
  scope: Scope,
  { sort, groupBy, columns, most = USUAL_ROWS }: RequestChoice,
  nowMs: number
): Promise<RequestList> {
  const window = scopeWindow(scope, nowMs);
  const picks = scopeQuery(scope) !== scopeQuery(scope, NO_PICKS);
  const [facts, rows] = await Promise.all([
    factsOf(scope, window, groupBy),
    rowsOf(scope, window, sort, columns, most)
  ]);
  const zones: ApdexCounts = { satisfied: 0, tolerating: 0, frustrated: 0 };
  facts.duration.forEach((ns, i) => zones[apdexZone(ns / 1e6, facts.tOf(i), facts.failed[i] === 1)]++);
  return {
    window,
    ...figuresOf(facts, facts.duration.keys()),
    apdex: { ...zones, score: apdexScore(zones) },
    ...overTime(facts, window),
    rows,
    ...(await standingOut(scope, window, facts)),
    groups: groupBy ? groupsOf(facts) : null,
    counted: picks ? null : (await totalIn(scope, window, nowMs)).count
  };
}

/** Requests that stand for the others, of all that match and not only of those listed. */
async function standingOut(
  scope: Scope,
  window: TimeWindow,
  { duration }: Facts
): Promise<Pick<RequestList, 'typical' | 'slowest'>> {
  if (duration.length === 0) return { typical: null, slowest: null };
  const [medianNs] = quantiles(duration, [0.5]);
  const nearest = duration.reduce((best, ns) =>
    Math.abs(ns - medianNs) < Math.abs(best - medianNs) ? ns : best
  );
  const { sql, args } = requestsFilter(scope, window);
  const pathOf = async (durationNs: number): Promise<string | null> => {
    const [found] = await select<{ path: string }>(
      `SELECT r.trace_id || '/' || r.span_id AS path FROM requests r WHERE ${sql} AND r.duration_ns = ? LIMIT 1`,
      [...args, durationNs]
    );
    return found?.path ?? null;
  };
  const [typical, slowest] = await Promise.all([pathOf(nearest), pathOf(greatestOf(duration))]);
  return { typical, slowest };
}

/** The little that counting needs of every request that matches, in columns: there may be hundreds of thousands. */
interface Facts {
  /** Epoch microseconds. */
  start: number[];
  /** Nanoseconds. */
  duration: number[];
  /** 0 or 1. */
  failed: number[];
  /** T of the request's endpoint, milliseconds. */
  tOf: (i: number) => number;
  /** Value of the grouping. */
  keyOf: (i: number) => string;
}

async function factsOf(scope: Scope, window: TimeWindow, groupBy: string): Promise<Facts> {
  const filter = requestsFilter(scope, window);
  const key = await keyFor(groupBy);
  const columns = [`r.start_us - ${window.fromUs}`, 'r.duration_ns', 'r.failed', 'r.endpoint_id'];
  if (key.sql) columns.push(key.sql);
  const lists = columns.map((column) => `json_group_array(${column})`).join(', ');
  // One list for each column: the fifth, where there is one, may hold texts.
  const [start, duration, failed, endpoint, keys] = (await selectJson(
    `SELECT json_array(${lists}) FROM requests r WHERE ${filter.sql}`,
    filter.args
  )) as [number[], number[], number[], number[], (number | string)[]];
  const rows = await select<{ id: number; t: number }>('SELECT id, apdex_t_ms AS t FROM endpoints');
  const tOf = new Map(rows.map(({ id, t }) => [id, t]));
  for (let i = 0; i < start.length; i++) start[i] += window.fromUs;
  return {
    start,
    duration,
    failed,
    tOf: (i) => tOf.get(endpoint[i]) ?? DEFAULT_APDEX_T_MS,
    keyOf: (i) => (key.sql ? key.of(keys[i]) : '')
  };
}

/** How a grouping is read: the column that tells it, and its text. */
async function keyFor(groupBy: string): Promise<{ sql: string; of: (raw: number | string) => string }> {
  const names = async (table: string, column = 'name'): Promise<Map<number, string>> =>
    new Map(
      (await select<{ id: number; name: string }>(`SELECT id, ${column} AS name FROM ${table}`)).map(
        ({ id, name }) => [id, name]
      )
    );
  const byNumber = (
    sql: string,
    map: Map<number, string>
  ): { sql: string; of: (raw: number | string) => string } => ({
    sql,
    of: (raw) => map.get(Number(raw)) ?? ''
  });
  switch (groupBy) {
    case 'service':
      return byNumber('r.service_id', await names('services'));
    case 'endpoint':
      return byNumber('r.endpoint_id', await names('endpoints'));
    case 'host':
      return byNumber('r.host_id', await names('hosts'));
    case 'release':
      return byNumber('r.release_id', await names('releases'));
    case 'status':
      return { sql: 'r.failed', of: (raw) => (raw === 1 ? 'failed' : 'ok') };
    case '':
      return { sql: '', of: () => '' };
    default: {
      const values = await valuesOf(groupBy === 'user' ? USER_NAMES : [groupBy.replace(/^attr:/, '')]);
      return {
        sql: 'r.pairs',
        of: (raw) => valueAmong(String(raw), values)
      };
    }
  }
}

/** The exact figures of some requests. */
function figuresOf(
  { duration, failed }: Facts,
  members: Iterable<number>
): Pick<RequestList, 'count' | 'failed' | 'p50Ns' | 'p95Ns' | 'p99Ns' | 'slowestNs'> {
  const durations: number[] = [];
  let lost = 0;
  for (const i of members) {
    durations.push(duration[i]);
    lost += failed[i];
  }
  const [p50Ns, p95Ns, p99Ns, slowestNs] = quantiles(durations, [0.5, 0.95, 0.99, 1]);
  return { count: durations.length, failed: lost, p50Ns, p95Ns, p99Ns, slowestNs };
}

function groupsOf(facts: Facts): RequestGroup[] {
  const total = (list: Iterable<number>): number => {
    let sum = 0;
    for (const i of list) sum += facts.duration[i];
    return sum;
  };
  const sum = total(facts.duration.keys());
  const groups = [...groupBy(facts.duration.keys(), facts.keyOf)].map(([value, list]) => ({
    value,
    share: sum > 0 ? total(list) / sum : 0,
    meanNs: total(list) / list.length,
    ...figuresOf(facts, list)
  }));
  return groups.sort((a, b) => b.share - a.share).slice(0, MAX_GROUPS);
}

function overTime(facts: Facts, window: TimeWindow): Pick<RequestList, 'series' | 'binMs'> {
  const binMs = Math.max(1000, Math.ceil((window.toUs - window.fromUs) / 1000 / SERIES_BINS / 1000) * 1000);
  const bins = groupBy(facts.start.keys(), (i) => Math.floor(facts.start[i] / 1000 / binMs));
  const series = [...bins]
    .sort((a, b) => a[0] - b[0])
    .map(([bin, list]) => ({ at: bin * binMs, ...figuresOf(facts, list) }));
  return { series, binMs };
}

async function rowsOf(
  scope: Scope,
  window: TimeWindow,
  sort: Sort,
  columns: readonly string[],
  most: number
): Promise<RequestRow[]> {
  const filter = requestsFilter(scope, window);
  const rows = await selectJson<(string | number)[]>(
    `SELECT json_group_array(json_array(trace_id, span_id, service, endpoint, host, release, pairs, start_us, duration_ns, failed, call_count, span_count, finding_count, ${IN_COLUMNS.join(', ')})) FROM (
      SELECT r.*, s.name AS service, e.name AS endpoint, h.name AS host, l.name AS release FROM
      (SELECT r.rowid AS id FROM requests r WHERE ${filter.sql} ORDER BY ${ORDERS[sort]} LIMIT ${most}) f
      JOIN requests r ON r.rowid = f.id
      JOIN services s ON s.id = r.service_id JOIN endpoints e ON e.id = r.endpoint_id JOIN hosts h ON h.id = r.host_id JOIN releases l ON l.id = r.release_id
      ORDER BY ${ORDERS[sort]})`,
    filter.args
  );
  const values =
    columns.length > 0 ? await valuesOf(columns) : new Map<number, { name: string; value: string }>();
  return rows.map((row) => requestRow(row, columns, values));
}

function requestRow(
  row: (string | number)[],
  columns: readonly string[],
  values: Map<number, { name: string; value: string }>
): RequestRow {
  const [traceId, spanId, service, endpoint, host, release, pairs] = row.map(String);
  const [startUs, durationNs, failed, calls, spans, findings] = row.slice(7, 13).map(Number);
  const own = columns.length > 0 ? numbersOf(pairs).map((id) => values.get(id)) : [];
  return {
    traceId,
    spanId,
    service,
    endpoint,
    host,
    release,
    startUs,
    durationNs,
    failed: failed === 1,
    calls,
    spans,
    findings,
    ledger: ledgerFrom(row.slice(13).map(Number)),
    attributes: columns.map((name) => own.find((pair) => pair?.name === name)?.value ?? '')
  };
}

/** The next slower and next faster request of the same endpoint in the scope. */
export async function neighboursOf(
  scope: Scope,
  spanId: string,
  endpointId: number,
  durationNs: number,
  nowMs: number
): Promise<{ slower: string | null; faster: string | null }> {
  const window = scopeWindow(scope, nowMs);
  const next = async (compare: '>' | '<', order: 'ASC' | 'DESC'): Promise<string | null> => {
    const rows = await select<{ path: string }>(
      `SELECT trace_id || '/' || span_id AS path FROM requests WHERE endpoint_id = ? AND start_us >= ? AND start_us < ? AND span_id <> ? AND duration_ns ${compare} ? ORDER BY duration_ns ${order} LIMIT 1`,
      [endpointId, window.fromUs, window.toUs, spanId, durationNs]
    );
    return rows[0]?.path ?? null;
  };
  return { slower: await next('>', 'ASC'), faster: await next('<', 'DESC') };
}
