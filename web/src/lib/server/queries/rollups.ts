import { ACCOUNTS, type Ledger } from '@tromix/core/trace/account';
import { apdexFromSketch, apdexZone, type ApdexCounts } from '@tromix/core/stats/apdex';
import { quantileSorted } from '@tromix/core/stats/percentile';
import { readSketch, sketchQuantiles, type Sketch } from '@tromix/core/stats/sketch';
import type { Scope, TimeWindow } from '$lib/scope';

import { REQUEST_ROLLUP } from '../ingest/rollup-shapes';
import { selectJson } from '../db/reader';
import type { Step } from '$lib/roll-up-steps';
import { binsOf, rangesOf, seriesStep, type BinRange } from './bins';
import { addExact } from './exact';
import { namesFilter, type Filter } from './filter';
import { lastApart, readRanges } from './remembered';
import { addTotals, emptyTotals, type By, type ExactDurations, type Totals } from './totals';

const KEY_OF: Record<By, string> = {
  all: '0',
  endpoint: 'm.endpoint_id',
  service: '(SELECT e.service_id FROM endpoints e WHERE e.id = m.endpoint_id)',
  host: 'm.host_id',
  release: 'm.release_id'
};

/** The margin whose rows are fewest and still tell what is asked. */
function marginFor(scope: Scope, by: readonly By[]): number {
  if (scope.run) return wholeMargin(scope);
  if (scope.host || scope.release || by.includes('host') || by.includes('release')) return 0;
  return scope.service || scope.endpoint || by.some((one) => one !== 'all') ? 1 : 2;
}

const ROLLUP_SUMS = Object.keys(REQUEST_ROLLUP.sums);
const SUMS = ROLLUP_SUMS.map((column, i) => `sum(m.${column}) AS s${i}`).join(', ');
const SUM_NAMES = ROLLUP_SUMS.map((_, i) => `s${i}`).join(', ');

interface Row {
  keys: number[];
  totals: Totals;
}

/** The margin whose rows name everything: of a load run what it caused, else of all. */
export const wholeMargin = ({ run }: Pick<Scope, 'run'>): number => (run ? -run : 0);

/** Condition of some runs of bins under a margin. */
export const timesOf = (ranges: readonly BinRange[], margin: number, table = 'm'): Filter => ({
  sql: `(${ranges.map(() => `(${table}.step = ? AND ${table}.margin = ? AND ${table}.at >= ? AND ${table}.at < ?)`).join(' OR ')})`,
  args: ranges.flatMap(({ step, from, to }) => [step, margin, from, to])
});

/** Rows of a grouped reading: the group's keys, the sums, and the sketches' texts one after another. */
async function grouped(
  keys: readonly string[],
  margin: number,
  names: Filter,
  ranges: readonly BinRange[]
): Promise<Row[]> {
  const columns = keys.map((_, i) => `k${i}`).join(', ');
  const times = timesOf(ranges, margin);
  const rows = await selectJson<(number | string | null)[]>(
    `SELECT json_group_array(json_array(${columns}, ${SUM_NAMES}, a, f)) FROM (
      SELECT ${keys.map((key, i) => `${key} AS k${i}`).join(', ')}, ${SUMS},
        group_concat(m.sketch, ' ') AS a, group_concat(m.failed_sketch, ' ') AS f
      FROM rollups m WHERE ${times.sql}${names.sql} GROUP BY ${columns} HAVING s0 > 0)`,
    [...times.args, ...names.args]
  );
  return rows.map((row) => ({
    keys: row.slice(0, keys.length).map(Number),
    totals: totalsFrom(row, keys.length)
  }));
}

function totalsFrom(row: (number | string | null)[], at: number): Totals {
  const value = (i: number): number => row[at + i] as number;
  const totals = emptyTotals();
  totals.count = value(0);
  totals.failed = value(1);
  totals.totalNs = value(2);
  totals.exclusiveNs = value(3);
  totals.calls = value(4);
  for (let i = 0; i < ACCOUNTS.length; i++) {
    totals.inclusive[ACCOUNTS[i]] = value(5 + i);
    totals.exclusive[ACCOUNTS[i]] = value(5 + ACCOUNTS.length + i);
  }
  totals.sketch = readSketch(String(row[at + ROLLUP_SUMS.length] ?? ''));
  totals.failedSketch = readSketch(String(row[at + ROLLUP_SUMS.length + 1] ?? ''));
  return totals;
}

/** Everything in a window under the scope's names, by one or several keys joined by a space; right to the minute. */
export async function totalsIn(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  ...by: By[]
): Promise<Map<string, Totals>> {
  const keys = by.map((one) => KEY_OF[one]);
  const margin = marginFor(scope, by);
  const names = namesFilter(scope, 'm');
  const rows = await readRanges(['totals', keys, margin, names], rangesOf(window, nowMs), (ranges) =>
    grouped(keys, margin, names, ranges)
  );
  const found = new Map<string, Totals>();
  for (const { keys, totals } of rows) {
    const key = keys.join(' ');
    const known = found.get(key) ?? emptyTotals();
    found.set(key, known);
    // What is remembered stays as it is: sums are made of it.
    addTotals(known, totals);
  }
  await addExact(found, scope, window, by, keys.join(" || ' ' || "));
  return found;
}

/** The few figures that hosts and releases are held against each other by. */
export interface CohortTotals {
  endpointId: number;
  hostId: number;
  releaseId: number;
  count: number;
  totalNs: number;
  exclusiveNs: number;
  sketch: Sketch;
}

/**
 * Each endpoint on each host under each release; of a long window to the whole bins of a coarse step, since no sum is shown of it.
 * One of them may come twice.
 */
export async function cohortTotals(scope: Scope, window: TimeWindow, nowMs: number): Promise<CohortTotals[]> {
  const names = namesFilter(scope, 'm');
  const step = seriesStep(window, nowMs, COHORT_BINS);
  const margin = wholeMargin(scope);
  return readRanges(
    ['cohorts', margin, names],
    lastApart({ step, ...binsOf(window, step) }),
    async (ranges) => {
      const times = timesOf(ranges, margin);
      const rows = await selectJson<[number, number, number, number, number, number, string]>(
        `SELECT json_group_array(json_array(e, h, r, n, t, x, a)) FROM (
        SELECT m.endpoint_id AS e, m.host_id AS h, m.release_id AS r, sum(m.count) AS n, sum(m.total_ns) AS t, sum(m.exclusive_ns) AS x, group_concat(m.sketch, ' ') AS a
        FROM rollups m WHERE ${times.sql}${names.sql} GROUP BY e, h, r HAVING n > 0)`,
        [...times.args, ...names.args]
      );
      return rows.map(([endpointId, hostId, releaseId, count, totalNs, exclusiveNs, text]) => ({
        endpointId,
        hostId,
        releaseId,
        count,
        totalNs,
        exclusiveNs,
        sketch: readSketch(text)
      }));
    }
  );
}

const COHORT_BINS = 36;

/** The one total of a window. */
export async function totalIn(scope: Scope, window: TimeWindow, nowMs: number): Promise<Totals> {
  return (await totalsIn(scope, window, nowMs, 'all')).get('0') ?? emptyTotals();
}

export interface SeriesPoint {
  /** Bin number of the step; its start in epoch milliseconds. */
  bin: number;
  atMs: number;
  totals: Totals;
}

/** Counts and durations of a window by bins of one step, in time order: the little a long strip shows. */
export async function countsIn(
  scope: Scope,
  window: TimeWindow,
  step: Step
): Promise<{ bin: number; atMs: number; count: number; sketch: Sketch }[]> {
  const names = namesFilter(scope, 'm');
  const margin = marginFor(scope, []);
  return readRanges(
    ['counts', margin, names],
    lastApart({ step, ...binsOf(window, step) }),
    async (ranges) => {
      const times = timesOf(ranges, margin);
      const rows = await selectJson<[number, number, string]>(
        `SELECT json_group_array(json_array(bin, n, a)) FROM (
        SELECT m.at AS bin, sum(m.count) AS n, group_concat(m.sketch, ' ') AS a
        FROM rollups m WHERE ${times.sql}${names.sql} GROUP BY bin HAVING n > 0 ORDER BY bin)`,
        [...times.args, ...names.args]
      );
      return rows.map(([bin, count, text]) => ({
        bin,
        atMs: bin * step * 60_000,
        count,
        sketch: readSketch(text)
      }));
    }
  );
}

/** A window as bins of one step in time order, under a further key; empty bins are left out. */
export async function seriesIn(
  scope: Scope,
  window: TimeWindow,
  step: Step,
  by: By = 'all'
): Promise<Map<number, SeriesPoint[]>> {
  const names = namesFilter(scope, 'm');
  const margin = marginFor(scope, [by]);
  const rows = await readRanges(
    ['series', by, margin, names],
    lastApart({ step, ...binsOf(window, step) }),
    (ranges) => grouped([KEY_OF[by], 'm.at'], margin, names, ranges)
  );
  const series = new Map<number, SeriesPoint[]>();
  for (const { keys, totals } of rows) {
    const [key, bin] = keys;
    const points = series.get(key) ?? [];
    series.set(key, points);
    points.push({ bin, atMs: bin * step * 60_000, totals });
  }
  for (const points of series.values()) points.sort((a, b) => a.bin - b.bin);
  return series;
}

/** Quantiles in nanoseconds: exact where the durations are known, else within 1 %. */
export function latency(
  { sketch, exact }: Pick<Totals, 'sketch' | 'exact'>,
  ps: readonly number[]
): number[] {
  if (exact) return ps.map((p) => quantileSorted(exact.all, p));
  return sketchQuantiles(sketch, ps).map((us) => us * 1000);
}

/** The mean ledger of a request, nanoseconds. @param sum that of all of them */
export function meanLedger(sum: Ledger, count: number): Ledger {
  const mean = { ...sum };
  for (const account of ACCOUNTS) mean[account] /= Math.max(1, count);
  return mean;
}

/** Apdex zones at any T: exact where the durations are known, else its bounds hold within 2 %. */
export function zonesOf(totals: Totals, tMs: number): ApdexCounts {
  if (totals.exact) return exactZones(totals.exact, tMs);
  return apdexFromSketch(totals.sketch, totals.failedSketch, tMs);
}

function exactZones({ all, failed }: ExactDurations, tMs: number): ApdexCounts {
  const counts: ApdexCounts = { satisfied: 0, tolerating: 0, frustrated: failed.length };
  for (const ns of all) counts[apdexZone(ns / 1e6, tMs, false)]++;
  // Those that failed are frustrated whatever their time.
  for (const ns of failed) counts[apdexZone(ns / 1e6, tMs, false)]--;
  return counts;
}
