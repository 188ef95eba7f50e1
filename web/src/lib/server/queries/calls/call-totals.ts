import { getTableColumns } from 'drizzle-orm';
import { groupBy } from '@tromix/core/group-by';
import { copyOf, mergeInto, readSketch, type Sketch } from '@tromix/core/stats/sketch';
import type { Scope, TimeWindow } from '$lib/scope';
import { CALL_SUMS } from '../../db/call-sums';
import { selectJson } from '../../db/reader';
import { callRollups } from '../../db/schema';
import type { CallSums } from '../../ingest/parts-row';
import { CALL_ROLLUP } from '../../ingest/rollup-shapes';
import type { Step } from '$lib/roll-up-steps';
import { binsOf, rangesOf, type BinRange } from '../bins';
import { namesFilter, type Filter } from '../filter';
import { lastApart, readRanges } from '../remembered';
import { latency, timesOf, wholeMargin } from '../rollups';

/** Sums of calls. Nanoseconds. */
export interface CallTotals extends CallSums {
  /** Requests that made at least one. */
  requests: number;
  mostCalls: number;
  p50Ns: number;
  p95Ns: number;
  sketch: Sketch;
}

/** Sums under some keys. */
export interface CallRow {
  keys: number[];
  totals: CallTotals;
}

export type CallKey = 'group' | 'origin' | 'endpoint' | 'service' | 'host' | 'release' | 'at';
/** What a key is in a table of sums under the alias `c`. */
export const KEY_OF: Record<CallKey, string> = {
  group: 'c.group_id',
  origin: 'c.origin_id',
  endpoint: 'c.endpoint_id',
  service: '(SELECT e.service_id FROM endpoints e WHERE e.id = c.endpoint_id)',
  host: 'c.host_id',
  release: 'c.release_id',
  at: 'c.at'
};
/** What is added up over calls, and what the greatest is taken of. */
const ADDED = ['requests', ...CALL_SUMS] as const;
const GREATEST = ['slowestNs', 'mostCalls'] as const satisfies (keyof CallTotals)[];
const FIGURES = [...ADDED, ...GREATEST];
const columns = getTableColumns(callRollups);
const AGGREGATES = [
  ...ADDED.map((name) => `sum(c.${columns[name].name}) AS ${name}`),
  ...GREATEST.map((name) => `max(c.${columns[name].name}) AS ${name}`)
].join(', ');

/** Only calls, not own spans. */
export const ONLY_CALLS: Filter = {
  sql: " AND c.group_id IN (SELECT id FROM call_groups WHERE kind IN ('database', 'cache', 'http', 'rpc', 'messaging', 'file'))",
  args: []
};
export const NO_FILTER: Filter = { sql: '', args: [] };
export const onlyGroup = (groupId: number): Filter => ({ sql: ' AND c.group_id = ?', args: [groupId] });

/** Calls of a window under the scope's names, by some keys (numbers of their tables). */
export async function callTotals(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  keys: readonly CallKey[],
  filter: Filter = ONLY_CALLS
): Promise<CallRow[]> {
  const ranges = rangesOf(window, nowMs, CALL_ROLLUP.steps);
  const names = namesFilter(scope, 'c');
  const margin = wholeMargin(scope);
  const rows = await readRanges(['calls', keys, margin, names, filter], ranges, (some) =>
    grouped(keys, some, margin, names, filter)
  );
  return [...groupBy(rows, (row) => row.keys.join(' ')).values()].map((parts) => ({
    keys: parts[0].keys,
    totals: mergeCalls(parts.map(({ totals }) => totals))
  }));
}

/** Calls over time: the first key is the bin. */
export function callSeries(
  scope: Scope,
  window: TimeWindow,
  step: Step,
  filter: Filter = ONLY_CALLS
): Promise<CallRow[]> {
  const names = namesFilter(scope, 'c');
  const margin = wholeMargin(scope);
  return readRanges(
    ['calls over time', margin, names, filter],
    lastApart({ step, ...binsOf(window, step) }),
    (ranges) => grouped(['at'], ranges, margin, names, filter)
  );
}

async function grouped(
  keys: readonly CallKey[],
  ranges: readonly BinRange[],
  margin: number,
  names: Filter,
  filter: Filter
): Promise<CallRow[]> {
  const keyNames = keys.map((_, i) => `k${i}`).join(', ');
  const times = timesOf(ranges, margin, 'c');
  const rows = await selectJson<(number | string)[]>(
    `SELECT json_group_array(json_array(${keyNames}, ${FIGURES.join(', ')}, sketches)) FROM (
      SELECT ${keys.map((key, i) => `${KEY_OF[key]} AS k${i}`).join(', ')}, ${AGGREGATES}, group_concat(c.sketch, ' ') AS sketches
      FROM call_rollups c WHERE ${times.sql}${names.sql}${filter.sql} GROUP BY ${keyNames} HAVING sum(c.calls) > 0)`,
    [...times.args, ...names.args, ...filter.args]
  );
  return rows.map((row) => ({
    keys: row.slice(0, keys.length).map(Number),
    totals: totalsFrom(row.slice(keys.length))
  }));
}

/** Several groups as one. */
export function mergeCalls(parts: readonly CallTotals[]): CallTotals {
  const sum: CallTotals = { ...parts[0], sketch: copyOf(parts[0].sketch) };
  for (const part of parts.slice(1)) {
    for (const name of ADDED) sum[name] += part[name];
    for (const name of GREATEST) sum[name] = Math.max(sum[name], part[name]);
    mergeInto(sum.sketch, part.sketch);
  }
  if (parts.length > 1) [sum.p50Ns, sum.p95Ns] = latency(sum, [0.5, 0.95]);
  return sum;
}

/** The key that most calls of some parts have, of those that have one; 0 for none. @param at which of their keys */
export function mostOf(parts: readonly CallRow[], at: number): number {
  const named = parts.filter(({ keys }) => (keys[at] ?? 0) !== 0);
  const counts = [...groupBy(named, ({ keys }) => keys[at])].map(([key, of]) => ({
    key,
    calls: of.reduce((sum, { totals }) => sum + totals.calls, 0)
  }));
  return counts.reduce((best, one) => (one.calls > best.calls ? one : best), { key: 0, calls: 0 }).key;
}

/** Calls by group, with the origin most of each group's calls name (its number; 0 for none). */
export async function groupsWithOrigin(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  filter: Filter
): Promise<{ groupId: number; originId: number; totals: CallTotals }[]> {
  const parts = await callTotals(scope, window, nowMs, ['group', 'origin'], filter);
  return [...groupBy(parts, ({ keys }) => keys[0])].map(([groupId, list]) => ({
    groupId,
    originId: mostOf(list, 1),
    totals: mergeCalls(list.map(({ totals }) => totals))
  }));
}

/** @param row the figures in their order, then the sketches. */
function totalsFrom(row: (number | string)[]): CallTotals {
  const figures = Object.fromEntries(FIGURES.map((name, i) => [name, Number(row[i])])) as Record<
    (typeof FIGURES)[number],
    number
  >;
  const sketch = readSketch(String(row[FIGURES.length] ?? ''));
  const [p50Ns, p95Ns] = latency({ sketch }, [0.5, 0.95]);
  return { ...figures, p50Ns, p95Ns, sketch };
}
