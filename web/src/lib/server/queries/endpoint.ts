import { coveredMinutes } from './covered';
import { quantiles } from '@tromix/core/stats/percentile';
import { apdexScore, type ApdexCounts } from '@tromix/core/stats/apdex';
import { liftsOf, type Lift } from '@tromix/core/stats/lift';
import { changeBetween, type Change } from '@tromix/core/stats/rank-test';
import type { Ledger } from '@tromix/core/trace/account';
import type { SlowKind } from '$lib/endpoint-choices';
import { scopeWindow, timeBefore, type Scope, type TimeWindow } from '$lib/scope';
import { select, selectJson } from '../db/reader';
import { seriesStep, stepName } from './bins';
import { groupsWithOrigin, NO_FILTER, type CallTotals } from './calls/call-totals';
import { requestsFilter } from './filter';
import { findingsOf } from './findings';
import type { FoundGroup } from './found-group';
import { histogramOf, type Histogram } from './histogram';
import { keysOf, namesOfKeys } from './lift-keys';
import { groupsById, namesById, originsById, shownNames } from './names-by-id';
import { latency, meanLedger, seriesIn, totalIn, totalsIn, zonesOf } from './rollups';
import { addTotals, emptyTotals, type Totals } from './totals';

export interface SplitRow {
  name: string;
  count: number;
  failed: number;
  p50Ns: number;
  p95Ns: number;
  histogram: Histogram;
  /** Against all the others. */
  change: Change;
}

export interface BreakdownRow {
  groupId: number;
  kind: string;
  name: string;
  origin: string;
  callsPerRequest: number;
  nsPerRequest: number;
  bookedPerRequest: number;
  /** Of the time of the endpoint's requests. */
  share: number;
  nsPerCall: number;
  p95Ns: number;
  calls: number;
  requests: number;
  failed: number;
  mostCalls: number;
}

export interface LiftRow extends Omit<Lift, 'key'> {
  name: string;
  value: string;
}

export interface SampleRequest {
  what: 'slowest' | 'typical' | 'first after a start';
  traceId: string;
  spanId: string;
  durationNs: number;
  startUs: number;
  host: string;
}

export interface EndpointPage {
  id: number;
  service: string;
  endpoint: string;
  tMs: number;
  window: TimeWindow;
  resolution: string;
  stepMs: number;
  count: number;
  failed: number;
  meanNs: number;
  p50Ns: number;
  p95Ns: number;
  p99Ns: number;
  slowestNs: number;
  ledger: Ledger;
  zones: ApdexCounts;
  apdex: number;
  perMinute: number;
  before: { count: number; perMinute: number; p50Ns: number; change: Change };
  heat: {
    at: number;
    count: number;
    failed: number;
    p50Ns: number;
    p95Ns: number;
    histogram: Histogram;
    /** What a request was made of, on the mean. */
    ledger: Ledger;
  }[];
  histogram: Histogram;
  hosts: SplitRow[];
  releases: SplitRow[];
  breakdown: BreakdownRow[];
  lift: { kind: SlowKind; thresholdNs: number; slow: number; others: number; rows: LiftRow[] };
  samples: SampleRequest[];
  findings: FoundGroup[];
  /** Kept requests in the scope: of them are samples and what sets slow ones apart. */
  kept: number;
}

const HEAT_BINS = 72;

/** All that the page of one endpoint shows; null where the endpoint is not known. */
export async function endpointOf(
  scope: Scope,
  slowKind: SlowKind,
  nowMs: number
): Promise<EndpointPage | null> {
  const window = scopeWindow(scope, nowMs);
  const [endpoint] = await select<{ id: number; service: string; name: string; tMs: number }>(
    `SELECT e.id AS id, s.name AS service, e.name AS name, e.apdex_t_ms AS tMs FROM endpoints e JOIN services s ON s.id = e.service_id
      WHERE e.name = ? AND (? = '' OR s.name = ?) ORDER BY s.name LIMIT 1`,
    [scope.endpoint, scope.service, scope.service]
  );
  if (!endpoint) return null;
  const own = { ...scope, service: endpoint.service };
  const beforeWindow = timeBefore(window, nowMs);
  const step = seriesStep(window, nowMs, HEAT_BINS);
  const [totals, before, series, hosts, releases, parts, facts] = await Promise.all([
    totalIn(own, window, nowMs),
    totalIn(own, beforeWindow, nowMs),
    seriesIn(own, window, step, 'endpoint'),
    splitBy(own, window, nowMs, 'host'),
    splitBy(own, window, nowMs, 'release'),
    partsOf(own, window, nowMs),
    factsOf(own, window)
  ]);
  const [p50Ns, p95Ns, p99Ns, slowestNs] = latency(totals, [0.5, 0.95, 0.99, 1]);
  const [findings, lift, samples] = await Promise.all([
    findingsOf(own, window, nowMs, totals.exclusiveNs, { limit: 12, aside: false }),
    liftOf(facts, slowKind, endpoint.tMs),
    samplesOf(own, window, p50Ns)
  ]);
  const zones = zonesOf(totals, endpoint.tMs);
  const [minutes, minutesBefore] = await Promise.all(
    [window, beforeWindow].map((part) => coveredMinutes(part, nowMs))
  );
  const beforeP50 = latency(before, [0.5])[0];
  return {
    id: endpoint.id,
    service: endpoint.service,
    endpoint: endpoint.name,
    tMs: endpoint.tMs,
    window,
    resolution: stepName(step),
    stepMs: step * 60_000,
    count: totals.count,
    failed: totals.failed,
    meanNs: totals.totalNs / Math.max(1, totals.count),
    p50Ns,
    p95Ns,
    p99Ns,
    slowestNs,
    ledger: totals.inclusive,
    zones,
    apdex: apdexScore(zones),
    perMinute: totals.count / minutes,
    before: {
      count: before.count,
      perMinute: before.count / minutesBefore,
      p50Ns: beforeP50,
      change: changeBetween(before.sketch, totals.sketch, [beforeP50, p50Ns])
    },
    heat: (series.get(endpoint.id) ?? []).map((point) => heatPoint(point.atMs, point.totals)),
    histogram: histogramOf(totals.sketch),
    hosts,
    releases,
    breakdown: breakdownOf(parts, totals),
    lift,
    samples,
    findings,
    kept: facts.length
  };
}

function heatPoint(at: number, totals: Totals): EndpointPage['heat'][number] {
  const [p50Ns, p95Ns] = latency(totals, [0.5, 0.95]);
  return {
    at,
    count: totals.count,
    failed: totals.failed,
    p50Ns,
    p95Ns,
    histogram: histogramOf(totals.sketch),
    ledger: meanLedger(totals.inclusive, totals.count)
  };
}

async function splitBy(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  by: 'host' | 'release'
): Promise<SplitRow[]> {
  const parts = await totalsIn(scope, window, nowMs, by);
  const names = await namesById(by === 'host' ? 'hosts' : 'releases', [...parts.keys()].map(Number));
  return [...parts]
    .map(([key, totals]) => {
      const others = emptyTotals();
      for (const [other, part] of parts) if (other !== key) addTotals(others, part);
      const [p50Ns, p95Ns] = latency(totals, [0.5, 0.95]);
      return {
        name: names.get(Number(key)) ?? '',
        count: totals.count,
        failed: totals.failed,
        p50Ns,
        p95Ns,
        histogram: histogramOf(totals.sketch),
        change: changeBetween(others.sketch, totals.sketch, [latency(others, [0.5])[0], p50Ns])
      };
    })
    .sort((a, b) => b.p50Ns - a.p50Ns);
}

/** The parts an average request is made of, most booked time first; a call made at several places is one row. */
function breakdownOf(
  parts: Awaited<ReturnType<typeof partsOf>>,
  { count, totalNs }: Pick<Totals, 'count' | 'totalNs'>
): BreakdownRow[] {
  const requests = Math.max(1, count);
  return parts
    .map(({ groupId, kind, name, origin, totals: part }) => ({
      groupId,
      kind,
      name,
      origin,
      callsPerRequest: part.calls / requests,
      nsPerRequest: part.totalNs / requests,
      bookedPerRequest: part.bookedNs / requests,
      share: totalNs > 0 ? part.bookedNs / totalNs : 0,
      nsPerCall: part.totalNs / part.calls,
      p95Ns: part.p95Ns,
      calls: part.calls,
      requests: part.requests,
      failed: part.failed,
      mostCalls: part.mostCalls
    }))
    .sort((a, b) => b.share - a.share);
}

/** Call groups and own spans of a scope with their names. */
async function partsOf(
  scope: Scope,
  window: TimeWindow,
  nowMs: number
): Promise<{ groupId: number; kind: string; name: string; origin: string; totals: CallTotals }[]> {
  const parts = await groupsWithOrigin(scope, window, nowMs, NO_FILTER);
  const groups = await groupsById(parts.map(({ groupId }) => groupId));
  const origins = await originsById(parts.map(({ originId }) => originId));
  const names = shownNames(groups);
  return parts.map(({ groupId, originId, totals }) => ({
    groupId,
    kind: groups.get(groupId)?.kind ?? '',
    name: names.get(groupId) ?? '',
    origin: origins.get(originId) ?? '',
    totals
  }));
}

type Fact = [durationNs: number, hostId: number, releaseId: number, pairs: string];

function factsOf(scope: Scope, window: TimeWindow): Promise<Fact[]> {
  const filter = requestsFilter(scope, window);
  return selectJson<Fact>(
    `SELECT json_group_array(json_array(r.duration_ns, r.host_id, r.release_id, r.pairs)) FROM requests r WHERE ${filter.sql}`,
    filter.args
  );
}

/** Attributes that restate the duration or the status, or name the endpoint itself. */
const TAUTOLOGIES =
  /^(?:http\.(?:request\.method|route|method|response\.body\.size)|url\.(?:path|full|scheme)|server\.|network\.|otel\.)/;
const MAX_LIFTS = 12;

/** Hosts and releases take part like attributes, whose numbers are positive. */

async function liftOf(facts: readonly Fact[], kind: SlowKind, tMs: number): Promise<EndpointPage['lift']> {
  const thresholdNs =
    kind === 'tenth'
      ? quantiles(
          facts.map(([durationNs]) => durationNs),
          [0.9]
        )[0]
      : tMs * 1e6 * (kind === 't' ? 1 : 4);
  const found = liftsOf(
    facts.map(([durationNs, hostId, releaseId, pairs]) => ({
      slow: durationNs > thresholdNs,
      keys: keysOf(hostId, releaseId, pairs)
    }))
  );
  const names = await namesOfKeys(found.lifts.map(({ key }) => key));
  return {
    kind,
    thresholdNs,
    slow: found.slow,
    others: found.others,
    rows: found.lifts
      .flatMap(({ key, ...lift }) => {
        const named = names.get(key);
        return named && !TAUTOLOGIES.test(named.name) ? [{ ...named, ...lift }] : [];
      })
      .slice(0, MAX_LIFTS)
  };
}

async function samplesOf(scope: Scope, window: TimeWindow, p50Ns: number): Promise<SampleRequest[]> {
  const filter = requestsFilter(scope, window);
  const columns =
    'r.trace_id AS traceId, r.span_id AS spanId, r.duration_ns AS durationNs, r.start_us AS startUs, h.name AS host';
  const from = 'FROM requests r JOIN hosts h ON h.id = r.host_id';
  type Row = Omit<SampleRequest, 'what'>;
  const median = Number.isFinite(p50Ns) ? p50Ns : 0;
  const [slowest, typical, firsts] = await Promise.all([
    select<Row>(
      `SELECT ${columns} ${from} WHERE ${filter.sql} ORDER BY r.duration_ns DESC LIMIT 3`,
      filter.args
    ),
    select<Row>(`SELECT ${columns} ${from} WHERE ${filter.sql} ORDER BY abs(r.duration_ns - ?) LIMIT 3`, [
      ...filter.args,
      median
    ]),
    select<Row>(
      `SELECT ${columns} ${from} JOIN resources p ON p.id = r.resource_id AND p.first_us = r.start_us WHERE ${filter.sql} ORDER BY r.start_us DESC LIMIT 3`,
      filter.args
    )
  ]);
  return [
    ...slowest.map((row): SampleRequest => ({ what: 'slowest', ...row })),
    ...typical.map((row): SampleRequest => ({ what: 'typical', ...row })),
    ...firsts.map((row): SampleRequest => ({ what: 'first after a start', ...row }))
  ];
}
