import { ROUND_LIMITS_S, ROUND_TOLERANCE } from '@tromix/core/calls/round-limit';
import { groupBy } from '@tromix/core/group-by';
import { emptySketch, pairsOf, SKETCH_ERROR, valueOf, type Sketch } from '@tromix/core/stats/sketch';
import type { CallRows } from '$lib/call-choices';
import { scopeWindow, type Scope, type TimeWindow } from '$lib/scope';
import { select } from '../db/reader';
import { partField } from '../ingest/parts-row';
import { CALL_ROLLUP } from '../ingest/rollup-shapes';
import { seriesStep, stepName } from './bins';
import {
  callSeries,
  callTotals,
  groupsWithOrigin,
  ONLY_CALLS,
  onlyGroup,
  type CallTotals
} from './call-totals';
import { requestsFilter, type Filter } from './filter';
import { histogramOf, type Histogram } from './histogram';
import { endpointsById, groupsById, namesById, originsById, type NamedGroup } from './names-by-id';

/** Figures of calls without the sketch behind them. */
export type CallFigures = Omit<CallTotals, 'sketch'>;

export interface CallRow extends CallFigures {
  id: number;
  name: string;
  /** Kind of a call group; service of an endpoint. */
  detail: string;
  /** Where most of a group's calls are made; the call groups of an origin. */
  origin: string;
  share: number;
}

export interface CallPoint {
  at: number;
  requests: number;
  calls: number;
  meanNs: number;
  p95Ns: number;
  mostCalls: number;
  totalNs: number;
}

export interface CallsPage {
  window: TimeWindow;
  resolution: string;
  rows: CallRow[];
  all: { calls: number; totalNs: number; groups: number };
  series: CallPoint[];
  stepMs: number;
}

const SERIES_BINS = 90;

const figures = ({ sketch: _, ...rest }: CallTotals): CallFigures => rest;

/** Which calls are listed: of one kind ('' for all), made at one origin (by its number). */
export interface CallChoice {
  rows: CallRows;
  kind: string;
  origin: number | undefined;
}

function filterOf({ kind, origin }: CallChoice): Filter {
  const ofKind = kind
    ? { sql: ' AND c.group_id IN (SELECT id FROM call_groups WHERE kind = ?)', args: [kind] }
    : ONLY_CALLS;
  if (origin === undefined) return ofKind;
  return { sql: `${ofKind.sql} AND c.origin_id = ?`, args: [...ofKind.args, origin] };
}

/** Calls in a scope, by what the rows are. */
export async function callsOf(scope: Scope, choice: CallChoice, nowMs: number): Promise<CallsPage> {
  const { rows } = choice;
  const window = scopeWindow(scope, nowMs);
  const filter = filterOf(choice);
  const found =
    rows === 'statement'
      ? await groupsWithOrigin(scope, window, nowMs, filter)
      : (await callTotals(scope, window, nowMs, [rows], filter)).map(({ keys, totals }) => ({
          groupId: keys[0],
          originId: 0,
          totals
        }));
  const totalNs = found.reduce((sum, { totals }) => sum + totals.totalNs, 0);
  const ids = found.map(({ groupId }) => groupId);
  const nameOf = await rowNames(rows, ids);
  const origins = await originsById(found.map(({ originId }) => originId));
  const step = seriesStep(window, nowMs, SERIES_BINS, CALL_ROLLUP.steps);
  const series = await callSeries(scope, window, step, filter);
  return {
    window,
    resolution: stepName(step),
    stepMs: step * 60_000,
    rows: found
      .map(({ groupId: id, originId, totals }) => ({
        id,
        ...nameOf(id),
        origin: origins.get(originId) ?? '',
        share: totalNs > 0 ? totals.totalNs / totalNs : 0,
        ...figures(totals)
      }))
      .sort((a, b) => b.totalNs - a.totalNs),
    all: {
      calls: found.reduce((sum, { totals }) => sum + totals.calls, 0),
      totalNs,
      groups: found.length
    },
    series: pointsOf(series, step)
  };
}

function pointsOf(series: Awaited<ReturnType<typeof callSeries>>, step: number): CallPoint[] {
  return series
    .map(({ keys: [at], totals }) => ({
      at: at * step * 60_000,
      requests: totals.requests,
      calls: totals.calls,
      meanNs: totals.totalNs / totals.calls,
      p95Ns: totals.p95Ns,
      mostCalls: totals.mostCalls,
      totalNs: totals.totalNs
    }))
    .sort((a, b) => a.at - b.at);
}

async function rowNames(
  rows: CallRows,
  ids: readonly number[]
): Promise<(id: number) => { name: string; detail: string }> {
  if (rows === 'statement') {
    const names = await groupsById(ids);
    return (id) => ({ name: names.get(id)?.fingerprint ?? '', detail: names.get(id)?.kind ?? '' });
  }
  if (rows === 'endpoint') {
    const names = await endpointsById(ids);
    return (id) => ({ name: names.get(id)?.name ?? '', detail: names.get(id)?.service ?? '' });
  }
  const names = rows === 'origin' ? await originsById(ids) : await namesById('services', ids);
  return (id) => ({ name: names.get(id) ?? '(origin not recorded)', detail: '' });
}

export interface Asker extends CallFigures {
  name: string;
  service: string;
  share: number;
}

export interface CallGroupPage {
  group: NamedGroup;
  window: TimeWindow;
  resolution: string;
  stepMs: number;
  totals: CallFigures;
  /** Requests of the endpoints that ask, also those that do not. */
  series: CallPoint[];
  endpoints: Asker[];
  origins: Asker[];
  services: Asker[];
  histogram: Histogram;
  /** Calls that end at a round limit, by that limit in nanoseconds. */
  onRound: { limitNs: number; calls: number }[];
  /** Requests to open: with the most of these calls, and typical ones. */
  samples: {
    what: string;
    traceId: string;
    spanId: string;
    endpoint: string;
    durationNs: number;
    startUs: number;
  }[];
  /** What statement logs say of the same statement. */
  logged: { evidenceId: string; name: string; calls: number; totalNs: number; slowestNs: number }[];
}

/** Everything about one call group in a scope; null where there is none of that number. */
export async function callGroupOf(
  scope: Scope,
  groupId: number,
  nowMs: number
): Promise<CallGroupPage | null> {
  const group = (await groupsById([groupId])).get(groupId);
  if (!group) return null;
  const window = scopeWindow(scope, nowMs);
  const filter = onlyGroup(groupId);
  const step = seriesStep(window, nowMs, SERIES_BINS, CALL_ROLLUP.steps);
  const [whole, byEndpoint, byOrigin, byService, series, samples, logged] = await Promise.all([
    callTotals(scope, window, nowMs, ['group'], filter),
    callTotals(scope, window, nowMs, ['endpoint'], filter),
    callTotals(scope, window, nowMs, ['origin'], filter),
    callTotals(scope, window, nowMs, ['service'], filter),
    callSeries(scope, window, step, filter),
    samplesOf(scope, window, groupId),
    loggedOf(groupId)
  ]);
  const totals = whole[0]?.totals ?? EMPTY;
  const endpoints = await endpointsById(byEndpoint.map(({ keys }) => keys[0]));
  const origins = await originsById(byOrigin.map(({ keys }) => keys[0]));
  const services = await namesById(
    'services',
    byService.map(({ keys }) => keys[0])
  );
  const askers = (
    parts: Awaited<ReturnType<typeof callTotals>>,
    nameOf: (id: number) => { name: string; service: string }
  ): Asker[] =>
    parts
      .map(({ keys: [id], totals: part }) => ({
        ...nameOf(id),
        share: totals.totalNs > 0 ? part.totalNs / totals.totalNs : 0,
        ...figures(part)
      }))
      .sort((a, b) => b.totalNs - a.totalNs);
  return {
    group,
    window,
    resolution: stepName(step),
    stepMs: step * 60_000,
    totals: figures(totals),
    series: pointsOf(series, step),
    endpoints: askers(byEndpoint, (id) => ({
      name: endpoints.get(id)?.name ?? '',
      service: endpoints.get(id)?.service ?? ''
    })),
    origins: askers(byOrigin, (id) => ({ name: origins.get(id) ?? '(not recorded)', service: '' })),
    services: askers(byService, (id) => ({ name: services.get(id) ?? '', service: '' })),
    histogram: histogramOf(totals.sketch),
    onRound: totals.onRound > 0 ? nearLimits(totals.sketch) : [],
    samples,
    logged
  };
}

/** Calls that lie near a round limit: the sketch knows them within 1 %, so that much is added to both bounds. */
function nearLimits(sketch: Sketch): CallGroupPage['onRound'] {
  const near = [...pairsOf(sketch)].map(([bucket, calls]) => {
    const us = valueOf(bucket);
    const seconds = ROUND_LIMITS_S.find(
      (limit) =>
        us >= limit * (1 - SKETCH_ERROR) * 1e6 && us <= limit * (1 + ROUND_TOLERANCE + SKETCH_ERROR) * 1e6
    );
    return { seconds, calls };
  });
  return [...groupBy(near, ({ seconds }) => seconds)].flatMap(([seconds, parts]) =>
    seconds === undefined
      ? []
      : [{ limitNs: seconds * 1e9, calls: parts.reduce((sum, { calls }) => sum + calls, 0) }]
  );
}

const EMPTY: CallTotals = {
  requests: 0,
  calls: 0,
  totalNs: 0,
  bookedNs: 0,
  failed: 0,
  retried: 0,
  onRound: 0,
  rows: 0,
  rowsKnown: 0,
  bytesRead: 0,
  bytesWritten: 0,
  slowestNs: 0,
  mostCalls: 0,
  p50Ns: NaN,
  p95Ns: NaN,
  sketch: emptySketch()
};

async function samplesOf(
  scope: Scope,
  window: TimeWindow,
  groupId: number
): Promise<CallGroupPage['samples']> {
  const filter = requestsFilter({ ...scope, group: groupId }, window);
  type Row = Omit<CallGroupPage['samples'][number], 'what'> & { calls: number; sum: number };
  const rows = await select<Row>(
    `SELECT r.trace_id AS traceId, r.span_id AS spanId, e.name AS endpoint, r.duration_ns AS durationNs, r.start_us AS startUs,
        ${partField('p', 'calls')} AS calls, ${partField('p', 'totalNs')} AS sum
      FROM (SELECT * FROM requests r WHERE ${filter.sql} ORDER BY r.start_us DESC LIMIT 2000) r
      JOIN request_parts q ON q.trace_id = r.trace_id AND q.span_id = r.span_id, json_each(q.parts) p
      JOIN endpoints e ON e.id = r.endpoint_id WHERE ${partField('p', 'groupId')} = ?`,
    [...filter.args, groupId]
  );
  if (rows.length === 0) return [];
  const bySum = rows.toSorted((a, b) => a.sum - b.sum);
  const most = rows.reduce((best, row) => (row.calls > best.calls ? row : best));
  const chosen = [
    { what: 'most calls', row: most },
    { what: 'most time', row: bySum[bySum.length - 1] },
    { what: 'typical', row: bySum[Math.floor(bySum.length / 2)] }
  ];
  return chosen.map(({ what, row: { traceId, spanId, endpoint, durationNs, startUs } }) => ({
    what,
    traceId,
    spanId,
    endpoint,
    durationNs,
    startUs
  }));
}

function loggedOf(groupId: number): Promise<CallGroupPage['logged']> {
  return select(
    `SELECT g.evidence_id AS evidenceId, e.name AS name, g.calls AS calls, g.total_ns AS totalNs, g.slowest_ns AS slowestNs
      FROM statement_groups g JOIN evidence e ON e.id = g.evidence_id WHERE g.group_id = ?`,
    [groupId]
  );
}
