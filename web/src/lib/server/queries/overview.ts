import type { Finding } from '@tromix/core/findings/finding';
import { apdexScore, type ApdexCounts } from '@tromix/core/stats/apdex';
import type { Ledger } from '@tromix/core/trace/account';
import { scopeWindow, type Scope, type TimeWindow } from '$lib/scope';
import { select } from '../db/reader';
import { namesFilter } from './filter';
import { latency, rollupRows, totalsBy, totalsOf, type RollupRow, type Totals } from './rollups';

export interface OverviewEndpoint {
  id: number;
  service: string;
  endpoint: string;
  count: number;
  failed: number;
  perMinute: number;
  /** Of all time in the scope, each nanosecond counted once. */
  share: number;
  totalNs: number;
  exclusiveNs: number;
  meanNs: number;
  p50Ns: number;
  p95Ns: number;
  ledger: Ledger;
  zones: ApdexCounts;
  findings: number;
  /** Median after the turn ÷ median before; null where either side has too few requests. */
  change: number | null;
}

export interface SideFigures {
  perMinute: number;
  meanNs: number;
  p95Ns: number;
  apdex: number;
  failed: number;
  failedShare: number;
  callsPerRequest: number;
  count: number;
}

export interface OverviewFinding {
  rule: string;
  title: string;
  service: string;
  endpoint: string;
  subject: string;
  requests: number;
  costNs: number;
  /** Of all time in the scope. */
  share: number;
  /** The finding of a typical request, and where it is. */
  example: Finding & { spanOfRequest: string };
  typicalCalls: number | null;
}

export interface Overview {
  window: TimeWindow;
  endpoints: OverviewEndpoint[];
  series: { at: number; count: number; ledger: Ledger; p50Ns: number; p95Ns: number }[];
  /** What is compared: a release that came within the window, or the time before it. */
  turn: { kind: 'release'; release: string; service: string; at: number } | { kind: 'period' };
  before: SideFigures;
  after: SideFigures;
  /** How much more of each account an average request takes after the turn, nanoseconds. */
  growth: Ledger;
  all: { count: number; exclusiveNs: number };
  findings: OverviewFinding[];
}

/** Fewer requests than this on either side say nothing about a change. */
const CHANGE_MIN_COUNT = 20;
const SERIES_POINTS = 60;

export async function overviewOf(scope: Scope, nowMs: number): Promise<Overview> {
  const window = scopeWindow(scope, nowMs);
  const length = window.toUs - window.fromUs;
  const earlier = { fromUs: window.fromUs - length, toUs: window.fromUs };
  const rows = await rollupRows(scope, window);
  const turn = await turnIn(scope, rows, window);
  const splitMinute = turn.kind === 'release' ? Math.floor((turn.at * 1000) / 60e6) : -1;
  const beforeRows =
    turn.kind === 'release'
      ? rows.filter(({ minute }) => minute < splitMinute)
      : await rollupRows(scope, earlier);
  const afterRows = turn.kind === 'release' ? rows.filter(({ minute }) => minute > splitMinute) : rows;
  const all = totalsOf(rows);
  const before = totalsOf(beforeRows);
  const after = totalsOf(afterRows);
  const findings = await findingsIn(scope, window, all.exclusiveNs);
  return {
    window,
    endpoints: await endpointsIn(rows, beforeRows, afterRows, all, findings),
    series: seriesOf(rows, window, nowMs),
    turn,
    before: figures(before, minutesWith(beforeRows)),
    after: figures(after, minutesWith(afterRows)),
    growth: growthOf(before, after),
    all: { count: all.count, exclusiveNs: all.exclusiveNs },
    findings
  };
}

/** The newest release that first came within the window, with enough of its service's requests on both sides. */
async function turnIn(
  scope: Scope,
  rows: readonly RollupRow[],
  window: TimeWindow
): Promise<Overview['turn']> {
  const releases = await select<{ at_us: number; name: string; service: string }>(
    `SELECT l.first_us AS at_us, l.name AS name, s.name AS service FROM releases l JOIN services s ON s.id = l.service_id
      WHERE l.first_us > ? AND l.first_us < ? AND (? = '' OR s.name = ?)
        AND EXISTS (SELECT 1 FROM releases o WHERE o.service_id = l.service_id AND o.first_us < l.first_us)
      ORDER BY l.first_us DESC`,
    [window.fromUs, window.toUs, scope.service, scope.service]
  );
  for (const { at_us, name, service } of releases) {
    const minute = Math.floor(at_us / 60e6);
    const count = (part: readonly RollupRow[]): number =>
      part.reduce((sum, { values }) => sum + values[0], 0);
    const enough =
      count(rows.filter((row) => row.minute < minute)) >= CHANGE_MIN_COUNT &&
      count(rows.filter((row) => row.minute > minute)) >= CHANGE_MIN_COUNT;
    if (enough) return { kind: 'release', release: name, service, at: at_us / 1000 };
  }
  return { kind: 'period' };
}

const minutesWith = (rows: readonly RollupRow[]): number => new Set(rows.map(({ minute }) => minute)).size;

function figures(totals: Totals, minutes: number): SideFigures {
  return {
    perMinute: minutes > 0 ? totals.count / minutes : 0,
    meanNs: totals.count > 0 ? totals.totalNs / totals.count : NaN,
    p95Ns: latency(totals, [0.95])[0],
    apdex: apdexScore(totals.zones),
    failed: totals.failed,
    failedShare: totals.count > 0 ? totals.failed / totals.count : NaN,
    callsPerRequest: totals.count > 0 ? totals.calls / totals.count : NaN,
    count: totals.count
  };
}

function growthOf(before: Totals, after: Totals): Ledger {
  const growth = { ...after.exclusive };
  for (const account of Object.keys(growth) as (keyof Ledger)[]) {
    growth[account] =
      after.exclusive[account] / Math.max(1, after.count) -
      before.exclusive[account] / Math.max(1, before.count);
  }
  return growth;
}

async function endpointsIn(
  rows: readonly RollupRow[],
  beforeRows: readonly RollupRow[],
  afterRows: readonly RollupRow[],
  all: Totals,
  findings: readonly OverviewFinding[]
): Promise<OverviewEndpoint[]> {
  const names = await select<{ id: number; service: string; name: string }>(
    'SELECT e.id AS id, s.name AS service, e.name AS name FROM endpoints e JOIN services s ON s.id = e.service_id'
  );
  const nameOf = new Map(names.map((row) => [row.id, row]));
  const byEndpoint = (part: readonly RollupRow[]): Map<number, Totals> =>
    totalsBy(part, ({ endpointId }) => endpointId);
  const before = byEndpoint(beforeRows);
  const after = byEndpoint(afterRows);
  const minutes = Math.max(1, minutesWith(rows));
  const endpoints = [...byEndpoint(rows)].map(([id, totals]) => {
    const { service, name } = nameOf.get(id)!;
    const [p50Ns, p95Ns] = latency(totals, [0.5, 0.95]);
    return {
      id,
      service,
      endpoint: name,
      count: totals.count,
      failed: totals.failed,
      perMinute: totals.count / minutes,
      share: all.exclusiveNs > 0 ? totals.exclusiveNs / all.exclusiveNs : 0,
      totalNs: totals.totalNs,
      exclusiveNs: totals.exclusiveNs,
      meanNs: totals.totalNs / totals.count,
      p50Ns,
      p95Ns,
      ledger: totals.inclusive,
      zones: totals.zones,
      findings: findings.filter((finding) => finding.service === service && finding.endpoint === name).length,
      change: changeOf(before.get(id), after.get(id))
    };
  });
  return endpoints.sort((a, b) => b.exclusiveNs - a.exclusiveNs);
}

function changeOf(before: Totals | undefined, after: Totals | undefined): number | null {
  if (!before || !after || before.count < CHANGE_MIN_COUNT || after.count < CHANGE_MIN_COUNT) return null;
  return latency(after, [0.5])[0] / latency(before, [0.5])[0];
}

/** The minute that still runs is left out: its few requests would look like a change. */
function seriesOf(rows: readonly RollupRow[], window: TimeWindow, nowMs: number): Overview['series'] {
  const running = Math.floor(nowMs / 60_000);
  const minutes = (window.toUs - window.fromUs) / 60e6;
  const step = Math.max(1, Math.ceil(minutes / SERIES_POINTS));
  return [
    ...totalsBy(
      rows.filter(({ minute }) => minute < running),
      ({ minute }) => Math.floor(minute / step)
    )
  ]
    .sort((a, b) => a[0] - b[0])
    .map(([bin, totals]) => {
      const [p50Ns, p95Ns] = latency(totals, [0.5, 0.95]);
      const ledger = { ...totals.exclusive };
      for (const account of Object.keys(ledger) as (keyof Ledger)[]) ledger[account] /= totals.count;
      return { at: bin * step * 60_000, count: totals.count / step, ledger, p50Ns, p95Ns };
    });
}

interface FindingGroup {
  endpoint_id: number;
  rule: string;
  subject: string;
  requests: number;
  cost: number;
  service: string;
  endpoint: string;
}

/** Groups of findings shown at most. */
const MAX_FINDINGS = 12;
/** Of each group so many of the newest are looked at for an example. */
const MAX_CANDIDATES = 200;

/** Alike findings of all requests in the scope as one, costliest first, each with an example. */
async function findingsIn(scope: Scope, window: TimeWindow, allNs: number): Promise<OverviewFinding[]> {
  const names = namesFilter(scope, 'f');
  const groups = await select<FindingGroup>(
    `SELECT g.*, s.name AS service, e.name AS endpoint FROM (
      SELECT f.endpoint_id, f.rule, f.subject, sum(f.is_first) AS requests, sum(f.cost_ns) AS cost FROM findings f
      WHERE f.start_us >= ? AND f.start_us < ?${names.sql}
      GROUP BY f.endpoint_id, f.rule, f.subject ORDER BY cost DESC LIMIT ${MAX_FINDINGS}) g
      JOIN endpoints e ON e.id = g.endpoint_id JOIN services s ON s.id = e.service_id ORDER BY g.cost DESC`,
    [window.fromUs, window.toUs, ...names.args]
  );
  const profiles = await select<ProfileSpan>(
    `SELECT service, host, started_at_us AS fromUs, started_at_us + duration_ns / 1000 AS toUs FROM evidence
      WHERE kind = 'profile' AND started_at_us < ? AND started_at_us + duration_ns / 1000 > ? LIMIT 500`,
    [window.toUs, window.fromUs]
  );
  return Promise.all(groups.map((group) => describeGroup(group, scope, window, allNs, profiles)));
}

interface ProfileSpan {
  service: string;
  host: string;
  fromUs: number;
  toUs: number;
}

async function describeGroup(
  group: FindingGroup,
  scope: Scope,
  window: TimeWindow,
  allNs: number,
  profiles: readonly ProfileSpan[]
): Promise<OverviewFinding> {
  const { endpoint_id, rule, subject, requests, cost, service, endpoint } = group;
  const names = namesFilter(scope, 'f');
  const candidates = await select<Candidate>(
    `SELECT f.id, f.cost_ns AS costNs, f.start_us AS startUs, h.name AS host FROM findings f JOIN hosts h ON h.id = f.host_id
      WHERE f.endpoint_id = ? AND f.rule = ? AND f.subject = ? AND f.start_us >= ? AND f.start_us < ?${names.sql}
      ORDER BY f.start_us DESC LIMIT ${MAX_CANDIDATES}`,
    [endpoint_id, rule, subject, window.fromUs, window.toUs, ...names.args]
  );
  const chosen = typicalOf(candidates, cost / Math.max(1, requests), service, profiles);
  const [stored] = await select<{ span_id: string; body: string }>(
    'SELECT span_id, body FROM findings WHERE id = ?',
    [chosen.id]
  );
  const example = { ...(JSON.parse(stored.body) as Finding), spanOfRequest: stored.span_id };
  const { calls } = example.figures;
  return {
    rule,
    title: rule === 'blind-stretch' ? 'A blind stretch' : example.title,
    service,
    endpoint,
    subject,
    requests,
    costNs: cost,
    share: allNs > 0 ? cost / allNs : 0,
    example,
    typicalCalls: typeof calls === 'number' ? calls : null
  };
}

interface Candidate {
  id: number;
  costNs: number;
  startUs: number;
  host: string;
}

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
