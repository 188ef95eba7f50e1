import { ROUND_LIMITS_S, ROUND_TOLERANCE } from '@tromix/core/calls/round-limit';
import { groupBy } from '@tromix/core/group-by';
import { emptySketch, pairsOf, SKETCH_ERROR, valueOf, type Sketch } from '@tromix/core/stats/sketch';
import { scopeWindow, type Scope, type TimeWindow } from '$lib/scope';
import { select } from '../../db/reader';
import { partField } from '../../ingest/parts-row';
import { CALL_ROLLUP } from '../../ingest/rollup-shapes';
import { seriesStep, stepName } from '../bins';
import { figures, pointsOf, SERIES_BINS, type CallFigures, type CallPoint } from './call-points';
import { headersOf, type CallHeaders } from './call-headers';
import { callSeries, callTotals, onlyGroup, type CallTotals } from './call-totals';
import { requestsFilter } from '../filter';
import { histogramOf, type Histogram } from '../histogram';
import { endpointsById, groupsById, namesById, originsById, type NamedGroup } from '../names-by-id';
import { outgoingTotals, type Outgoing } from './outgoing';
import { profilesOf } from '../profiles-of';

export interface Asker extends CallFigures {
  name: string;
  service: string;
  share: number;
  /** A profile of the service that asks there; '' for none. */
  profileId: string;
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
  hosts: Asker[];
  /** Of an outgoing HTTP call: what it tells. */
  outgoing: Outgoing | null;
  headers: CallHeaders;
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
  const [whole, byEndpoint, byOrigin, byService, byHost, series, samples, logged, told, headers] =
    await Promise.all([
      callTotals(scope, window, nowMs, ['group'], filter),
      callTotals(scope, window, nowMs, ['endpoint'], filter),
      callTotals(scope, window, nowMs, ['origin', 'service'], filter),
      callTotals(scope, window, nowMs, ['service'], filter),
      callTotals(scope, window, nowMs, ['host'], filter),
      callSeries(scope, window, step, filter),
      samplesOf(scope, window, groupId),
      loggedOf(groupId),
      group.kind === 'http'
        ? outgoingTotals(scope, window, nowMs, 'group', filter)
        : new Map<number, Outgoing>(),
      headersOf(scope, groupId, nowMs)
    ]);
  const totals = whole[0]?.totals ?? EMPTY;
  const endpoints = await endpointsById(byEndpoint.map(({ keys }) => keys[0]));
  const origins = await originsById(byOrigin.map(({ keys }) => keys[0]));
  const services = await namesById('services', [
    ...byOrigin.map(({ keys }) => keys[1]),
    ...byService.map(({ keys }) => keys[0])
  ]);
  const hosts = await namesById(
    'hosts',
    byHost.map(({ keys }) => keys[0])
  );
  const profiles = await profilesOf([...services.values()], window);
  const askers = (
    parts: Awaited<ReturnType<typeof callTotals>>,
    nameOf: (keys: readonly number[]) => Pick<Asker, 'name' | 'service'> & Partial<Asker>
  ): Asker[] =>
    parts
      .map(({ keys, totals: part }) => ({
        profileId: '',
        ...nameOf(keys),
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
    endpoints: askers(byEndpoint, ([id]) => ({
      name: endpoints.get(id)?.name ?? '',
      service: endpoints.get(id)?.service ?? ''
    })),
    origins: askers(byOrigin, ([id, of]) => {
      const service = services.get(of) ?? '';
      return { name: origins.get(id) ?? '(not recorded)', service, profileId: profiles.get(service) ?? '' };
    }),
    services: askers(byService, ([id]) => ({ name: services.get(id) ?? '', service: '' })),
    hosts: askers(byHost, ([id]) => ({ name: hosts.get(id) ?? '', service: '' })),
    outgoing: told.get(groupId) ?? null,
    headers,
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
