import type { Scope, TimeWindow } from '$lib/scope';
import { selectJson } from '../db/reader';
import { singleFilter } from './filter';
import type { By, Totals } from './totals';

/** Of so few requests the figures are taken from the requests themselves. */
export const FEW = 300;
/** Requests read for that at most. */
const MAX_READ = 12_000;

/**
 * Gives sums of few requests their durations, where all of those requests are kept: the figures of few are exact then. Times are whole bins, so that
 * both count the same.
 * @param key of a row of `requests m`, as the sums have it.
 */
export async function addExact(
  sums: ReadonlyMap<string, Totals>,
  scope: Scope,
  window: TimeWindow,
  by: readonly By[],
  key: string
): Promise<void> {
  const few = [...sums].filter(([, { count }]) => count > 0 && count <= FEW);
  const count = few.reduce((sum, [, totals]) => sum + totals.count, 0);
  const byEndpoint = by.length === 1 && by[0] === 'endpoint';
  // Other sums than by endpoint are looked up by time alone: only where there is little in that time.
  if (few.length === 0 || count > MAX_READ || (!byEndpoint && few.length < sums.size)) return;
  const names = singleFilter(scope, 'm');
  const only = byEndpoint ? ' AND m.endpoint_id IN (SELECT value FROM json_each(?))' : '';
  const rows = await selectJson<[key: number | string, durationNs: number, failed: number]>(
    `SELECT json_group_array(json_array(k, d, f)) FROM (SELECT ${key} AS k, m.duration_ns AS d, m.failed AS f FROM requests m
      WHERE m.start_us >= ? AND m.start_us < ?${names.sql}${only} LIMIT ${MAX_READ + 1})`,
    [
      window.fromUs,
      window.toUs,
      ...names.args,
      ...(byEndpoint ? [JSON.stringify(few.map(([endpoint]) => Number(endpoint)))] : [])
    ]
  );
  const found = new Map<string, [number, number][]>();
  for (const [of, durationNs, failed] of rows) {
    const list = found.get(String(of));
    if (list) list.push([durationNs, failed]);
    else found.set(String(of), [[durationNs, failed]]);
  }
  for (const [of, totals] of few) {
    const list = found.get(of) ?? [];
    if (list.length !== totals.count) continue;
    totals.exact = {
      all: Float64Array.from(list, ([durationNs]) => durationNs).sort(),
      failed: Float64Array.from(
        list.filter(([, failed]) => failed === 1),
        ([durationNs]) => durationNs
      ).sort()
    };
  }
}
