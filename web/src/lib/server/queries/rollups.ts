import { emptyLedger, ACCOUNTS, type Ledger } from '@tromix/core/trace/account';
import type { ApdexCounts } from '@tromix/core/stats/apdex';
import { addBucket, sketchQuantiles, type Sketch } from '@tromix/core/stats/sketch';
import type { Scope, TimeWindow } from '$lib/scope';
import { ROLLUP_SUMS } from '../db/ledger-columns';
import { reader } from '../db/reader';
import { minutesOf, namesFilter } from './filter';

/** Sums of any number of roll-up rows. */
export interface Totals {
  count: number;
  failed: number;
  zones: ApdexCounts;
  totalNs: number;
  exclusiveNs: number;
  calls: number;
  /** With everything the requests call. */
  inclusive: Ledger;
  /** Every nanosecond once. */
  exclusive: Ledger;
  sketch: Sketch;
}

export interface RollupRow {
  minute: number;
  endpointId: number;
  hostId: number;
  releaseId: number;
  values: number[];
  sketch: string;
}

/** The roll-up rows of a scope, as one JSON text: the fastest way out of SQLite through this client. */
export async function rollupRows(scope: Scope, window: TimeWindow): Promise<RollupRow[]> {
  const { from, to } = minutesOf(window);
  const names = namesFilter(scope, 'm');
  const { rows } = await (
    await reader()
  ).execute({
    sql: `SELECT json_group_array(json_array(m.minute, m.endpoint_id, m.host_id, m.release_id, m.sketch, ${ROLLUP_SUMS.map((column) => `m.${column}`).join(', ')}))
      FROM minute_rollups m WHERE m.minute >= ? AND m.minute < ? AND m.count > 0${names.sql}`,
    args: [from, to, ...names.args]
  });
  const list = JSON.parse(String(rows[0][0])) as (number | string)[][];
  return list.map(([minute, endpointId, hostId, releaseId, sketch, ...values]) => ({
    minute: Number(minute),
    endpointId: Number(endpointId),
    hostId: Number(hostId),
    releaseId: Number(releaseId),
    sketch: String(sketch),
    values: values as number[]
  }));
}

export function emptyTotals(): Totals {
  return {
    count: 0,
    failed: 0,
    zones: { satisfied: 0, tolerating: 0, frustrated: 0 },
    totalNs: 0,
    exclusiveNs: 0,
    calls: 0,
    inclusive: emptyLedger(),
    exclusive: emptyLedger(),
    sketch: new Map()
  };
}

export function addRow(totals: Totals, { values, sketch }: RollupRow): void {
  const [count, failed, satisfied, tolerating, frustrated, totalNs, exclusiveNs, calls] = values;
  totals.count += count;
  totals.failed += failed;
  totals.zones.satisfied += satisfied;
  totals.zones.tolerating += tolerating;
  totals.zones.frustrated += frustrated;
  totals.totalNs += totalNs;
  totals.exclusiveNs += exclusiveNs;
  totals.calls += calls;
  ACCOUNTS.forEach((account, i) => {
    totals.inclusive[account] += values[8 + i];
    totals.exclusive[account] += values[8 + ACCOUNTS.length + i];
  });
  for (const pair of sketch.split(' ')) {
    const colon = pair.indexOf(':');
    if (colon > 0) addBucket(totals.sketch, Number(pair.slice(0, colon)), Number(pair.slice(colon + 1)));
  }
}

export function totalsOf(rows: readonly RollupRow[]): Totals {
  const totals = emptyTotals();
  for (const row of rows) addRow(totals, row);
  return totals;
}

/** Rows by a key, summed. */
export function totalsBy<Key>(rows: readonly RollupRow[], keyOf: (row: RollupRow) => Key): Map<Key, Totals> {
  const groups = new Map<Key, Totals>();
  for (const row of rows) {
    const key = keyOf(row);
    let totals = groups.get(key);
    if (!totals) groups.set(key, (totals = emptyTotals()));
    addRow(totals, row);
  }
  return groups;
}

/** Quantiles in nanoseconds, within 1 %. */
export function latency(totals: Totals, ps: readonly number[]): number[] {
  return sketchQuantiles(totals.sketch, ps).map((us) => us * 1000);
}
