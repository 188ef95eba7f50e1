import { apdexScore, type ApdexCounts, DEFAULT_APDEX_T_MS } from '@tromix/core/stats/apdex';
import type { Gone } from '@tromix/core/findings/gone';
import { changeBetween, CHANGE_MIN_COUNT, changeRank, type Change } from '@tromix/core/stats/rank-test';
import type { Ledger } from '@tromix/core/trace/account';
import { binAt } from '$lib/roll-up-steps';
import { scopeWindow, wholeBins, type Scope, type TimeWindow } from '$lib/scope';
import { select } from '../db/reader';
import { OTHER_ENDPOINTS, OTHER_HOSTS, OTHER_RELEASES, OTHER_SERVICES } from '../ingest/dictionary';
import { seriesStep, stepName } from './bins';
import { coveredMinutes } from './covered';
import { findingsOf, type FoundGroup } from './findings';
import {
  addTotals,
  emptyTotals,
  latency,
  seriesIn,
  totalsIn,
  zonesOf,
  type By,
  type SeriesPoint,
  type Totals
} from './rollups';

/** What the rows of the overview are. */
export const ROW_KINDS = ['endpoints', 'services', 'hosts', 'releases'] as const;
export type RowKind = (typeof ROW_KINDS)[number];
const BY: Record<RowKind, By> = {
  endpoints: 'endpoint',
  services: 'service',
  hosts: 'host',
  releases: 'release'
};

/**
 * What a change is measured against: `auto` takes the release that came within the window and explains most of the change, else the time before;
 * `release` also takes one from before the window; a release may be named by its number, `r12`.
 */
export const AGAINSTS = ['auto', 'period', 'release'] as const;
export type Against = (typeof AGAINSTS)[number] | `r${number}`;
export const againstFrom = (text: string): Against =>
  /^r\d{1,12}$/.test(text) ? (text as Against) : (AGAINSTS.find((one) => one === text) ?? 'auto');

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

export interface Overview {
  window: TimeWindow;
  /** Length of a point of the series, in words. */
  resolution: string;
  kind: RowKind;
  /** The first ones by the rank, by total time. */
  rows: OverviewRow[];
  /** How many rows there are. */
  rowCount: number;
  /** How many rows hold 90 % of the time, and how much of it those do. */
  holding: { count: number; share: number };
  series: { at: number; count: number; ledger: Ledger; p50Ns: number; p95Ns: number }[];
  /** What is compared: a release that came within the window, or the time before it. */
  turn: { kind: 'release'; id: number; release: string; service: string; at: number } | { kind: 'period' };
  /** Releases that came within the window, any of which it may be compared at; epoch milliseconds. */
  marks: { id: number; release: string; service: string; at: number }[];
  before: SideFigures;
  after: SideFigures;
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
const MINUTE_US = 60e6;
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
  const [endpoints, { turn, marks, beforeWindow, afterWindow, before, after }, apdexT, findings, found] =
    await Promise.all([
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
  const [beforeAll, afterAll] = [sumOf(before), sumOf(after)];
  const keyed = async (part: TimeWindow, known: Map<string, Totals>): Promise<Map<string, Totals>> =>
    kind === 'endpoints' ? known : totalsIn(scope, part, nowMs, by);
  // Names last: one that came in meanwhile is known then.
  const [rows, rowsBefore, rowsAfter, [minutes, minutesBefore, minutesAfter], names] = await Promise.all([
    keyed(window, endpoints),
    // A release is compared with the one before it, whatever else the scope is compared at.
    kind === 'releases' ? new Map<string, Totals>() : keyed(beforeWindow, before),
    kind === 'releases' ? new Map<string, Totals>() : keyed(afterWindow, after),
    Promise.all([window, beforeWindow, afterWindow].map((part) => coveredMinutes(part, nowMs))),
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
    marks,
    before: figures(beforeAll, before, apdexT, minutesBefore),
    after: figures(afterAll, after, apdexT, minutesAfter),
    change: changeOf(beforeAll, afterAll),
    growth: growthOf(beforeAll, afterAll),
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

function sumOf(parts: Map<string, Totals>): Totals {
  const sum = emptyTotals();
  for (const part of parts.values()) addTotals(sum, part);
  return sum;
}

interface Turn {
  turn: Overview['turn'];
  marks: Overview['marks'];
  beforeWindow: TimeWindow;
  afterWindow: TimeWindow;
  /** By endpoint. */
  before: Map<string, Totals>;
  after: Map<string, Totals>;
}

/** What is being compared, and how sums of a part of its time are read. */
interface Compared {
  scope: Scope;
  window: TimeWindow;
  nowMs: number;
  read: (part: TimeWindow) => Promise<Map<string, Totals>>;
}

type Mark = Overview['marks'][number];

/** What is held against what. A release splits the window at the bin it came in, which itself belongs to neither side. */
async function turnOf(
  compared: Compared,
  now: Promise<Map<string, Totals>>,
  series: Promise<Map<number, SeriesPoint[]>>,
  against: Against
): Promise<Turn> {
  const { scope, window, nowMs, read } = compared;
  const all = await marksOf(scope, window);
  const within = all.filter(({ at }) => at * 1000 > window.fromUs);
  const marks = within.slice(0, MAX_MARKS);
  const points = (await series).get(0) ?? [];
  const candidates =
    against === 'period'
      ? []
      : against === 'auto'
        ? within.toSorted((a, b) => explainedAt(points, b.at) - explainedAt(points, a.at))
        : against === 'release'
          ? all
          : all.filter(({ id }) => `r${id}` === against);
  for (const mark of candidates.slice(0, MAX_TRIED)) {
    const { beforeWindow, afterWindow } = sidesAt(mark, window, nowMs);
    if (afterWindow.fromUs >= afterWindow.toUs) continue;
    const [before, after] = await Promise.all([read(beforeWindow), read(afterWindow)]);
    const enough = [before, after].every((part) => sumOf(part).count >= CHANGE_MIN_COUNT);
    if (enough)
      return { turn: { kind: 'release', ...mark }, marks, beforeWindow, afterWindow, before, after };
  }
  const length = window.toUs - window.fromUs;
  const beforeWindow = wholeBins({ fromUs: window.fromUs - length, toUs: window.fromUs }, nowMs);
  const before = await read(beforeWindow);
  return { turn: { kind: 'period' }, marks, beforeWindow, afterWindow: window, before, after: await now };
}

/** Releases offered to compare at, and tried for one with enough requests on both sides. */
const MAX_MARKS = 12;
const MAX_TRIED = 5;

/** The time before a release and the time since. One that came before the window is held against as much time before it. */
function sidesAt(
  { at }: Mark,
  window: TimeWindow,
  nowMs: number
): Pick<Turn, 'beforeWindow' | 'afterWindow'> {
  const binUs = binAt(at, nowMs) * MINUTE_US;
  const bin = Math.floor((at * 1000) / binUs) * binUs;
  const fromUs = bin > window.fromUs ? window.fromUs : bin - (window.toUs - window.fromUs);
  return {
    beforeWindow: wholeBins({ fromUs, toUs: bin }, nowMs),
    afterWindow: { fromUs: Math.max(window.fromUs, bin + binUs), toUs: window.toUs }
  };
}

/**
 * How much of the change of an average request a moment explains: the sum of squares between the time before and the time since, as in an
 * analysis of variance of two groups. Only good for ranking moments of one window.
 */
function explainedAt(points: readonly SeriesPoint[], atMs: number): number {
  const side = (since: boolean): { count: number; totalNs: number } =>
    points
      .filter((point) => point.atMs >= atMs === since)
      .reduce(
        (sum, { totals }) => ({ count: sum.count + totals.count, totalNs: sum.totalNs + totals.totalNs }),
        { count: 0, totalNs: 0 }
      );
  const [before, after] = [side(false), side(true)];
  if (before.count === 0 || after.count === 0) return 0;
  const apart = after.totalNs / after.count - before.totalNs / before.count;
  return ((before.count * after.count) / (before.count + after.count)) * apart * apart;
}

/** Releases that replaced another before the end of the window, newest first. */
async function marksOf(scope: Scope, window: TimeWindow): Promise<Mark[]> {
  const rows = await select<{ id: number; at_us: number; name: string; service: string }>(
    `SELECT l.id AS id, l.first_us AS at_us, l.name AS name, s.name AS service FROM releases l JOIN services s ON s.id = l.service_id
      WHERE l.first_us > 0 AND l.first_us < ? AND (? = '' OR s.name = ?)
        AND EXISTS (SELECT 1 FROM releases o WHERE o.service_id = l.service_id AND o.first_us < l.first_us)
      ORDER BY l.first_us DESC LIMIT 100`,
    [window.toUs, scope.service, scope.service]
  );
  return rows.map(({ id, at_us, name, service }) => ({ id, release: name, service, at: at_us / 1000 }));
}

/** For each of some releases the one of its service that came before it, of those that have requests here. */
async function releasesBeforeThose(rows: ReadonlyMap<string, Totals>): Promise<Map<string, string>> {
  const releases = await select<{ id: number; service: number }>(
    `SELECT id, service_id AS service FROM releases WHERE id IN (SELECT value FROM json_each(?)) ORDER BY service_id, first_us, id`,
    [JSON.stringify([...rows.keys()].map(Number))]
  );
  const previous = new Map<string, string>();
  releases.forEach(({ id, service }, i) => {
    if (i > 0 && releases[i - 1].service === service) previous.set(String(id), String(releases[i - 1].id));
  });
  return previous;
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
  const [p50Ns, p95Ns] = latency(totals, [0.5, 0.95]);
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
  const ledger = { ...totals.exclusive };
  for (const account of Object.keys(ledger) as (keyof Ledger)[]) ledger[account] /= totals.count;
  return { at: atMs, count: totals.count / step, ledger, p50Ns, p95Ns };
}
