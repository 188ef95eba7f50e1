import type { ComparedSide } from '@tromix/core/compare/compared-side';
import type { PartTotal, SideTotals } from '@tromix/core/compare/difference-ledger';
import type { FoundIn } from '@tromix/core/compare/finding-changes';
import { figuresOf } from '@tromix/core/compare/how-sure';
import { ACCOUNTS, type Ledger } from '@tromix/core/trace/account';
import { picksRequests, type Leavable } from '$lib/compared-scopes';
import { scopeWindow, type Scope, type TimeWindow } from '$lib/scope';
import { IN_COLUMNS } from '../../db/ledger-columns';
import { selectJson } from '../../db/reader';
import { CALL_ROLLUP, FINDING_ROLLUP } from '../../ingest/rollup-shapes';
import { partField } from '../../ingest/parts-row';
import { rangesOf } from '../bins';
import { namesFilter, type Filter } from '../filter';
import { groupsById } from '../names-by-id';
import { latency, timesOf, totalIn, wholeMargin } from '../rollups';
import type { Totals } from '../totals';
import { pickedFilter } from './picked-filter';

/** A side as the database has it. */
export interface StoredSide extends ComparedSide {
  window: TimeWindow;
  /** When each request began, seconds after the window. */
  startsS: Float32Array;
}

/** Requests read one by one at most, of a side whose sums are kept. */
const MOST_READ = 200_000;
/** Requests picked one by one at most: their parts are read each. */
const MOST_PICKED = 20_000;

/** Reads one side: from sums where the scope has only names, else request by request. */
export async function storedSide(
  scope: Scope,
  leave: readonly Leavable[],
  nowMs: number
): Promise<StoredSide> {
  const window = scopeWindow(scope, nowMs);
  return picksRequests(scope) || leave.length > 0
    ? pickedSide(scope, leave, window)
    : summedSide(scope, window, nowMs);
}

async function summedSide(scope: Scope, window: TimeWindow, nowMs: number): Promise<StoredSide> {
  const everything: Filter = pickedFilter(scope, [], window);
  const [totals, parts, findings, rows, squares] = await Promise.all([
    totalIn(scope, window, nowMs),
    summedParts(scope, window, nowMs),
    summedFindings(scope, window, nowMs),
    requestRows(everything, MOST_READ + 1),
    accountSums(everything)
  ]);
  // More came between one question and the other: nothing is gone, and it is read request by request.
  if (rows.length > totals.count) return pickedSide(scope, [], window);
  // Sums keep counting what is no longer kept one by one.
  const isWhole = rows.length === totals.count;
  const requests = isWhole ? takenApart(rows, window) : NO_ROWS;
  const [median, p95] = latency(totals, [0.5, 0.95]);
  return {
    ...requests,
    figures: isWhole ? figuresOf(requests.durationsNs) : { median, p95 },
    kept: isWhole ? 'requests' : 'sums',
    ...spanOf(rows, window),
    window,
    inScope: totals.count,
    failed: totals.failed,
    totals: {
      part: { requests: totals.count, totalNs: totals.totalNs, parts },
      account: accountTotals(totals, totals.inclusive, isWhole ? squares.squares : null),
      service: null
    },
    findings
  };
}

async function pickedSide(scope: Scope, leave: readonly Leavable[], window: TimeWindow): Promise<StoredSide> {
  const all = pickedFilter(scope, leave, window);
  const [{ inScope, sinceUs }] = await selectJson<{ inScope: number; sinceUs: number }>(
    `SELECT json_array(json_object('inScope', count(*), 'sinceUs', coalesce((SELECT r.start_us FROM requests r WHERE ${all.sql}
      ORDER BY r.start_us DESC LIMIT 1 OFFSET ${MOST_PICKED - 1}), 0))) FROM requests r WHERE ${all.sql}`,
    [...all.args, ...all.args]
  );
  const read = { sql: `${all.sql} AND r.start_us >= ?`, args: [...all.args, sinceUs] };
  const [rows, parts, findings, sums] = await Promise.all([
    requestRows(read, MOST_READ),
    pickedParts(read),
    pickedFindings(read),
    accountSums(read)
  ]);
  const requests = takenApart(rows, window);
  const totalNs = requests.durationsNs.reduce((sum, took) => sum + took, 0);
  return {
    ...requests,
    figures: figuresOf(requests.durationsNs),
    kept: 'requests',
    ...spanOf(rows, window),
    window,
    inScope,
    failed: rows.reduce((sum, [, , , failed]) => sum + failed, 0),
    totals: {
      part: { requests: rows.length, totalNs, parts },
      account: accountTotals({ count: rows.length, totalNs }, sums.booked, sums.squares),
      service: null
    },
    findings
  };
}

type RequestRow = [startUs: number, durationNs: number, calls: number, failed: number];

const requestRows = (filter: Filter, limit: number): Promise<RequestRow[]> =>
  selectJson<RequestRow>(
    `SELECT json_group_array(json_array(s, d, c, f)) FROM (
      SELECT r.start_us AS s, r.duration_ns AS d, r.call_count AS c, r.failed AS f FROM requests r WHERE ${filter.sql}
      ORDER BY r.start_us LIMIT ${limit})`,
    filter.args
  );

type Rows = Pick<StoredSide, 'durationsNs' | 'calls' | 'startsS'>;
const NO_ROWS: Rows = {
  durationsNs: new Float64Array(),
  calls: new Float64Array(),
  startsS: new Float32Array()
};
const takenApart = (rows: readonly RequestRow[], { fromUs }: TimeWindow): Rows => ({
  durationsNs: Float64Array.from(rows, ([, durationNs]) => durationNs),
  calls: Float64Array.from(rows, ([, , calls]) => calls),
  startsS: Float32Array.from(rows, ([startUs]) => (startUs - fromUs) / 1e6)
});

/** When the first and the last one began; of requests that are gone the window. */
const spanOf = (rows: readonly RequestRow[], window: TimeWindow): { fromUs: number; toUs: number } =>
  rows.length > 0
    ? { fromUs: rows[0][0], toUs: rows[rows.length - 1][0] }
    : { fromUs: window.fromUs, toUs: window.toUs };

interface AccountSums {
  booked: Ledger;
  squares: Ledger;
}

/** Each account's time over some requests, and its squares. */
async function accountSums(filter: Filter): Promise<AccountSums> {
  const sums = IN_COLUMNS.flatMap((column) => [
    `total(r.${column})`,
    `total(1.0 * r.${column} * r.${column})`
  ]);
  const [row] = await selectJson<number[]>(
    `SELECT json_array(json_array(${sums.join(', ')})) FROM requests r WHERE ${filter.sql}`,
    filter.args
  );
  const of = (which: 0 | 1): Ledger =>
    Object.fromEntries(ACCOUNTS.map((account, i) => [account, row[2 * i + which]])) as Ledger;
  return { booked: of(0), squares: of(1) };
}

const accountTotals = (
  { count, totalNs }: Pick<Totals, 'count' | 'totalNs'>,
  booked: Ledger,
  squares: Ledger | null
): SideTotals => ({
  requests: count,
  totalNs,
  parts: ACCOUNTS.filter((account) => booked[account] > 0).map((account) => ({
    kind: account,
    name: account,
    verb: '',
    parent: '',
    count,
    bookedNs: booked[account],
    squares: squares ? squares[account] : NaN
  }))
});

type PartSums = [groupId: number, calls: number, bookedNs: number, squares: number];

async function summedParts(scope: Scope, window: TimeWindow, nowMs: number): Promise<PartTotal[]> {
  const names = namesFilter(scope, 'c');
  const times = timesOf(rangesOf(window, nowMs, CALL_ROLLUP.steps), wholeMargin(scope), 'c');
  return named(
    await selectJson<PartSums>(
      `SELECT json_group_array(json_array(g, n, b, q)) FROM (
        SELECT c.group_id AS g, sum(c.calls) AS n, sum(c.booked_ns) AS b, sum(c.squares) AS q FROM call_rollups c
        WHERE ${times.sql}${names.sql} GROUP BY c.group_id HAVING n > 0)`,
      [...times.args, ...names.args]
    )
  );
}

async function pickedParts(filter: Filter): Promise<PartTotal[]> {
  const booked = partField('j', 'bookedNs');
  return named(
    await selectJson<PartSums>(
      `SELECT json_group_array(json_array(g, n, b, q)) FROM (
        SELECT ${partField('j', 'groupId')} AS g, sum(${partField('j', 'calls')}) AS n, sum(${booked}) AS b, total(1.0 * ${booked} * ${booked}) AS q
        FROM requests r JOIN request_parts p ON p.trace_id = r.trace_id AND p.span_id = r.span_id, json_each(p.parts) j
        WHERE ${filter.sql} GROUP BY g)`,
      filter.args
    )
  );
}

async function named(sums: readonly PartSums[]): Promise<PartTotal[]> {
  const groups = await groupsById(sums.map(([id]) => id));
  return sums.map(([id, count, bookedNs, squares]) => {
    const group = groups.get(id);
    return {
      kind: group?.kind ?? '',
      name: group?.fingerprint ?? '',
      verb: group?.verb ?? '',
      // Under what a part stands is in no sum.
      parent: '',
      count,
      bookedNs,
      squares
    };
  });
}

const found = ([rule, subject, requests]: [string, string, number]): FoundIn => ({ rule, subject, requests });

async function summedFindings(scope: Scope, window: TimeWindow, nowMs: number): Promise<FoundIn[]> {
  const names = namesFilter(scope, 'f');
  const margin = scope.run || scope.host || scope.release ? wholeMargin(scope) : 1;
  const times = timesOf(rangesOf(window, nowMs, FINDING_ROLLUP.steps), margin, 'f');
  const rows = await selectJson<[string, string, number]>(
    `SELECT json_group_array(json_array(u.rule, u.subject, n)) FROM (
      SELECT f.subject_id AS id, sum(f.requests) AS n FROM finding_rollups f WHERE ${times.sql}${names.sql}
      GROUP BY f.subject_id HAVING n > 0) JOIN finding_subjects u USING (id)`,
    [...times.args, ...names.args]
  );
  return rows.map(found);
}

async function pickedFindings(filter: Filter): Promise<FoundIn[]> {
  const rows = await selectJson<[string, string, number]>(
    `SELECT json_group_array(json_array(rule, subject, n)) FROM (
      SELECT f.rule, f.subject, sum(f.is_first) AS n FROM requests r JOIN findings f ON f.trace_id = r.trace_id AND f.span_id = r.span_id
      WHERE ${filter.sql} GROUP BY f.rule, f.subject)`,
    filter.args
  );
  return rows.map(found);
}
