import { apdexScore, type ApdexCounts, DEFAULT_APDEX_T_MS } from '@tromix/core/stats/apdex';
import type { Gone } from '@tromix/core/findings/gone';
import { eachSide, type Sides } from '@tromix/core/sides';
import { changeBetween, changeRank, type Change } from '@tromix/core/stats/rank-test';
import type { Ledger } from '@tromix/core/trace/account';
import { scopeWindow, type Scope, type TimeWindow } from '$lib/scope';
import { select } from '../db/reader';
import { OTHER_ENDPOINTS, OTHER_HOSTS, OTHER_RELEASES, OTHER_SERVICES } from '../ingest/dictionary';
import { seriesStep, stepName } from './bins';
import { releasesBeforeThose, turnOf, type Against, type Mark, type Turn } from './compared';
import { coveredMinutes } from './covered';
import { findingsOf } from './findings';
import type { FoundGroup } from './found-group';
import { latency, meanLedger, seriesIn, totalsIn, zonesOf, type SeriesPoint } from './rollups';
import { emptyTotals, sumOf, type By, type Totals } from './totals';

/** What the rows of the overview are. */
export const ROW_KINDS = ['endpoints', 'services', 'hosts', 'releases'] as const;
export type RowKind = (typeof ROW_KINDS)[number];
const BY: Record<RowKind, By> = {
  endpoints: 'endpoint',
  services: 'service',
  hosts: 'host',
  releases: 'release'
};

/** What the rows are ranked by. */
export const ROW_RANKS = ['total', 'count', 'mean', 'p95', 'frustrated', 'failed', 'change'] as const;
export type RowRank = (typeof ROW_RANKS)[number];

/** Rows that are listed: the first ones by the rank. */
export const MAX_ROWS = 500;

export interface OverviewRow {
  id: number;
  /** The service of an endpoint or release; '' for others. */
  service: string;
  name: string;
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
  slowestNs: number;
  ledger: Ledger;
  zones: ApdexCounts;
  /** T of the zones; null where rows hold endpoints of several. */
  tMs: number | null;
  findings: number;
  change: Change;
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

export interface Overview extends Sides<SideFigures> {
  window: TimeWindow;
  /** Length of a point of the series, in words and in milliseconds. */
  resolution: string;
  stepMs: number;
  kind: RowKind;
  /** The first ones by the rank, by total time. */
  rows: OverviewRow[];
  /** How many rows there are. */
  rowCount: number;
  /** How many rows hold 90 % of the time, and how much of it those do. */
  holding: { count: number; share: number };
  series: { at: number; count: number; ledger: Ledger; p50Ns: number; p95Ns: number }[];
  /** What is compared: a release that came within the window, or the time before it. */
  turn: Turn['turn'];
  /** The times that are compared. */
  windows: Sides<TimeWindow>;
  /** Releases that came within the window, any of which it may be compared at. */
  marks: Mark[];
  /** Whether an average request changed, with the test behind it. */
  change: Change;
  /** How much more of each account an average request takes after the turn, nanoseconds. */
  growth: Ledger;
  all: { count: number; exclusiveNs: number; apdex: number };
  findings: FoundGroup[];
  /** What a newer release no longer shows. */
  fixed: (Gone & { title: string; endpoint: string })[];
  /** True where so many names came that some are taken together. */
  guarded: boolean;
}

/** What names are taken together under, once there are very many. */
const GUARDED = new Set([OTHER_ENDPOINTS, OTHER_SERVICES, OTHER_HOSTS, OTHER_RELEASES]);
const SERIES_POINTS = 65;
/** Findings shown beside the overview. */
const MAX_FINDINGS = 12;

export interface OverviewChoice {
  kind: RowKind;
  against: Against;
  rank?: RowRank;
}

export async function overviewOf(
  scope: Scope,
  nowMs: number,
  { kind, against, rank = 'total' }: OverviewChoice = { kind: 'endpoints', against: 'auto' }
): Promise<Overview> {
  const window = scopeWindow(scope, nowMs);
  const by = BY[kind];
  const step = seriesStep(window, nowMs, SERIES_POINTS);
  const read = (part: TimeWindow): Promise<Map<string, Totals>> => totalsIn(scope, part, nowMs, 'endpoint');
  const reading = read(window);
  // Everything is asked at once: the database's thread reads on while this one adds up.
  const seeking = seriesIn(scope, window, step);
  const [endpoints, { turn, marks, windows, totals }, apdexT, findings, found] = await Promise.all([
    reading,
    turnOf({ scope, window, nowMs, read }, reading, seeking, against),
    apdexTs(),
    findingsOf(
      scope,
      window,
      nowMs,
      reading.then((known) => sumOf(known).exclusiveNs),
      { limit: MAX_FINDINGS, aside: false }
    ),
    seeking
  ]);
  const series = found.get(0) ?? [];
  const all = sumOf(endpoints);
  const sums = eachSide(totals, sumOf);
  const keyed = async (part: TimeWindow, known: Map<string, Totals>): Promise<Map<string, Totals>> =>
    kind === 'endpoints' ? known : totalsIn(scope, part, nowMs, by);
  // Names last: one that came in meanwhile is known then.
  const [rows, rowsBefore, rowsAfter, [minutes, minutesBefore, minutesAfter], names] = await Promise.all([
    keyed(window, endpoints),
    // A release is compared with the one before it, whatever else the scope is compared at.
    kind === 'releases' ? new Map<string, Totals>() : keyed(windows.before, totals.before),
    kind === 'releases' ? new Map<string, Totals>() : keyed(windows.after, totals.after),
    Promise.all([window, windows.before, windows.after].map((part) => coveredMinutes(part, nowMs))),
    rowNames(kind)
  ]);
  const previous = kind === 'releases' ? await releasesBeforeThose(rows) : null;
  const changeIn = (key: string): Change =>
    previous
      ? changeOf(rows.get(previous.get(key) ?? ''), rows.get(key))
      : changeOf(rowsBefore.get(key), rowsAfter.get(key));
  return {
    window,
    resolution: stepName(step),
    stepMs: step * 60_000,
    kind,
    rowCount: rows.size,
    holding: holdingOf(rows, all),
    rows: firstBy(rank, rows, changeIn, apdexT)
      .map(([key, totals]) =>
        rowOf(Number(key), totals, {
          name: names.get(Number(key))!,
          all,
          minutes,
          tMs: kind === 'endpoints' ? (apdexT.get(Number(key)) ?? DEFAULT_APDEX_T_MS) : null,
          findings,
          change: changeIn(key)
        })
      )
      .sort((a, b) => b.exclusiveNs - a.exclusiveNs),
    series: series
      .filter(({ bin }) => (bin + 1) * step * 60_000 <= nowMs)
      .map((point) => seriesPoint(point, step)),
    turn,
    windows,
    marks,
    before: figures(sums.before, totals.before, apdexT, minutesBefore),
    after: figures(sums.after, totals.after, apdexT, minutesAfter),
    change: changeOf(sums.before, sums.after),
    growth: growthOf(sums.before, sums.after),
    all: {
      count: all.count,
      exclusiveNs: all.exclusiveNs,
      apdex: figures(all, endpoints, apdexT, minutes).apdex
    },
    findings: findings.filter(({ gone }) => gone === null),
    fixed: findings.flatMap(({ gone, title, endpoint }) => (gone ? [{ ...gone, title, endpoint }] : [])),
    guarded: [...names.values()].some(({ name }) => GUARDED.has(name))
  };
}

/** The share of the time that a few rows hold. */
const MOST = 0.9;

function holdingOf(rows: Map<string, Totals>, all: Totals): Overview['holding'] {
  if (all.exclusiveNs <= 0) return { count: 0, share: 0 };
  const times = [...rows.values()].map(({ exclusiveNs }) => exclusiveNs).sort((a, b) => b - a);
  let sum = 0;
  for (let i = 0; i < times.length; i++) {
    sum += times[i];
    if (sum >= MOST * all.exclusiveNs) return { count: i + 1, share: sum / all.exclusiveNs };
  }
  return { count: times.length, share: sum / all.exclusiveNs };
}

/** The rows that are listed. Figures of thousands of others are not worked out, but for the one they are ranked by. */
function firstBy(
  rank: RowRank,
  rows: Map<string, Totals>,
  changeIn: (key: string) => Change,
  apdexT: Map<number, number>
): [string, Totals][] {
  if (rows.size <= MAX_ROWS) return [...rows];
  const worth: Record<RowRank, (key: string, totals: Totals) => number> = {
    total: (_, totals) => totals.exclusiveNs,
    count: (_, totals) => totals.count,
    mean: (_, totals) => totals.totalNs / totals.count,
    p95: (_, totals) => latency(totals, [0.95])[0],
    frustrated: (key, totals) => zonesOf(totals, apdexT.get(Number(key)) ?? DEFAULT_APDEX_T_MS).frustrated,
    failed: (_, totals) => totals.failed,
    change: (key) => changeRank(changeIn(key)) ?? -1
  };
  return [...rows]
    .map((row) => ({ row, by: worth[rank](...row) }))
    .sort((a, b) => b.by - a.by)
    .slice(0, MAX_ROWS)
    .map(({ row }) => row);
}

/** T of each endpoint. */
async function apdexTs(): Promise<Map<number, number>> {
  const rows = await select<{ id: number; t: number }>('SELECT id, apdex_t_ms AS t FROM endpoints');
  return new Map(rows.map(({ id, t }) => [id, t]));
}

function figures(
  totals: Totals,
  byEndpoint: Map<string, Totals>,
  apdexT: Map<number, number>,
  minutes: number
): SideFigures {
  const zones: ApdexCounts = { satisfied: 0, tolerating: 0, frustrated: 0 };
  for (const [key, part] of byEndpoint) {
    const own = zonesOf(part, apdexT.get(Number(key)) ?? DEFAULT_APDEX_T_MS);
    for (const zone of ['satisfied', 'tolerating', 'frustrated'] as const) zones[zone] += own[zone];
  }
  const each = (sum: number): number => (totals.count > 0 ? sum / totals.count : NaN);
  return {
    perMinute: minutes > 0 ? totals.count / minutes : 0,
    meanNs: each(totals.totalNs),
    p95Ns: latency(totals, [0.95])[0],
    apdex: apdexScore(zones),
    failed: totals.failed,
    failedShare: each(totals.failed),
    callsPerRequest: each(totals.calls),
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

function changeOf(before: Totals = emptyTotals(), after: Totals = emptyTotals()): Change {
  return changeBetween(before.sketch, after.sketch, [latency(before, [0.5])[0], latency(after, [0.5])[0]]);
}

interface RowContext {
  name: { service: string; name: string };
  all: Totals;
  minutes: number;
  tMs: number | null;
  findings: readonly FoundGroup[];
  change: Change;
}

function rowOf(
  id: number,
  totals: Totals,
  { name, all, minutes, tMs, findings, change }: RowContext
): OverviewRow {
  const [p50Ns, p95Ns, slowestNs] = latency(totals, [0.5, 0.95, 1]);
  return {
    id,
    ...name,
    count: totals.count,
    failed: totals.failed,
    perMinute: totals.count / minutes,
    share: all.exclusiveNs > 0 ? totals.exclusiveNs / all.exclusiveNs : 0,
    totalNs: totals.totalNs,
    exclusiveNs: totals.exclusiveNs,
    meanNs: totals.totalNs / totals.count,
    p50Ns,
    p95Ns,
    slowestNs,
    ledger: totals.inclusive,
    zones: zonesOf(totals, tMs ?? DEFAULT_APDEX_T_MS),
    tMs,
    findings: findings.filter((finding) => finding.service === name.service && finding.endpoint === name.name)
      .length,
    change
  };
}

const NAME_SQL: Record<RowKind, string> = {
  endpoints:
    'SELECT e.id AS id, s.name AS service, e.name AS name FROM endpoints e JOIN services s ON s.id = e.service_id',
  services: "SELECT id, '' AS service, name FROM services",
  hosts: "SELECT id, '' AS service, name FROM hosts",
  releases:
    'SELECT l.id AS id, s.name AS service, l.name AS name FROM releases l JOIN services s ON s.id = l.service_id'
};

async function rowNames(kind: RowKind): Promise<Map<number, { service: string; name: string }>> {
  const rows = await select<{ id: number; service: string; name: string }>(NAME_SQL[kind]);
  return new Map(rows.map(({ id, service, name }) => [id, { service, name }]));
}

function seriesPoint({ atMs, totals }: SeriesPoint, step: number): Overview['series'][number] {
  const [p50Ns, p95Ns] = latency(totals, [0.5, 0.95]);
  const ledger = meanLedger(totals.exclusive, totals.count);
  return { at: atMs, count: totals.count / step, ledger, p50Ns, p95Ns };
}
