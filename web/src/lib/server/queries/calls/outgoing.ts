import { groupBy } from '@tromix/core/group-by';
import type { OutgoingSums } from '@tromix/core/calls/outgoing';
import type { Scope, TimeWindow } from '$lib/scope';
import { OUTGOING_SUMS } from '../../db/call-sums';
import { selectJson } from '../../db/reader';
import { OUTGOING_COLUMNS, OUTGOING_ROLLUP } from '../../ingest/rollup-shapes';
import { rangesOf, type BinRange } from '../bins';
import { KEY_OF, type CallKey } from './call-totals';
import { namesFilter, type Filter } from '../filter';
import { readRanges } from '../remembered';
import { timesOf, wholeMargin } from '../rollups';

/** What outgoing HTTP calls tell: sums over all of them, and how many had which status. */
export interface Outgoing extends Omit<OutgoingSums, 'status'> {
  /** By status (0 where none came or none was recorded), the most frequent first. */
  statuses: { status: number; calls: number }[];
}

type Row = [key: number, status: number, ...sums: number[]];

/** What outgoing calls of a window tell, by a key. */
export async function outgoingTotals(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  key: CallKey,
  filter: Filter
): Promise<Map<number, Outgoing>> {
  const names = namesFilter(scope, 'c');
  const margin = wholeMargin(scope);
  const rows = await readRanges(
    ['outgoing calls', key, margin, names, filter],
    rangesOf(window, nowMs, OUTGOING_ROLLUP.steps),
    (ranges) => summed(key, ranges, margin, names, filter)
  );
  return new Map([...groupBy(rows, ([id]) => id)].map(([id, of]) => [id, together(of)]));
}

function summed(
  key: CallKey,
  ranges: readonly BinRange[],
  margin: number,
  names: Filter,
  filter: Filter
): Promise<Row[]> {
  const times = timesOf(ranges, margin, 'c');
  const sums = OUTGOING_SUMS.map((name) => `sum(c.${OUTGOING_COLUMNS[name].name})`).join(', ');
  return selectJson<Row>(
    `SELECT json_group_array(json(one)) FROM (SELECT json_array(${KEY_OF[key]}, c.status, ${sums}) AS one
      FROM outgoing_rollups c WHERE ${times.sql}${names.sql}${filter.sql} GROUP BY ${KEY_OF[key]}, c.status HAVING sum(c.calls) > 0)`,
    [...times.args, ...names.args, ...filter.args]
  );
}

function together(rows: readonly Row[]): Outgoing {
  const sums = Object.fromEntries(
    OUTGOING_SUMS.map((name, i) => [name, rows.reduce((sum, row) => sum + row[i + 2], 0)])
  ) as Omit<OutgoingSums, 'status'>;
  const byStatus = groupBy(rows, ([, status]) => status);
  const statuses = [...byStatus].map(([status, of]) => ({
    status,
    calls: of.reduce((sum, row) => sum + row[2], 0)
  }));
  return { ...sums, statuses: statuses.sort((a, b) => b.calls - a.calls || a.status - b.status) };
}
