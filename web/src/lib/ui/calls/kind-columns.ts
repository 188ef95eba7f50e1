import { formatCount } from '@tromix/core/text/format';
import type { CallRow } from '$lib/server/queries/calls/calls';
import type { Outgoing } from '$lib/server/queries/calls/outgoing';
import { failureColumns, rankColumns, sizeColumn } from './call-columns';
import { bytesColumn, countColumn, rareColumn, textColumn } from '$lib/ui/tables/column-makers';
import type { Column } from '$lib/ui/tables/columns';

/** Ranks that make room for what only calls of a kind tell, where there is little of it. */
const GIVING: Partial<Record<string, readonly string[]>> = {
  file: ['share', 'most', 'slowest'],
  http: ['share', 'most', 'mean', 'retried', 'failed', 'slowest']
};

const known = (bytes: number): number | null => (bytes > 0 ? bytes : null);

/** What a list of files tells besides the ranks. */
const FILE_COLUMNS: Column<CallRow>[] = [
  countColumn('opens', 'opens', ({ opens }) => opens, {
    width: 64,
    about: 'Calls that open a file: open, and reading or writing a whole file by its path'
  }),
  bytesColumn('read', 'read', ({ bytesRead }) => known(bytesRead), {
    width: 76,
    about: 'Bytes, where calls say'
  }),
  bytesColumn('written', 'written', ({ bytesWritten }) => known(bytesWritten), {
    width: 76,
    about: 'Bytes, where calls say'
  })
];

/** What a list of outgoing requests tells besides the ranks: columns of which something is told. */
function outgoingColumns(rows: readonly CallRow[]): Column<CallRow>[] {
  const tells = (value: (one: Outgoing) => number): boolean =>
    rows.some(({ outgoing }) => outgoing !== null && value(outgoing) > 0);
  const repeated = rareColumn<CallRow>('repeated', 'repeated', ({ outgoing }) => outgoing?.repeated ?? 0, {
    width: 72,
    gives: 6,
    about: 'Asked before in the same request with the same address'
  });
  const phases: Column<CallRow> = {
    key: 'phases',
    title: 'first byte',
    about: 'Connecting, to the first byte and the rest, on average over the calls that tell it',
    width: 104,
    gives: 7,
    value: ({ outgoing }) =>
      outgoing && outgoing.answered > 0 ? outgoing.firstByteNs / outgoing.answered : null
  };
  return [
    textColumn<CallRow>('status', 'status', ({ outgoing }) => statusesText(outgoing), {
      width: 96,
      about: 'Statuses of the answers, the most frequent first'
    }),
    ...(tells((one) => one.repeated) ? [repeated] : []),
    ...(tells((one) => one.phased) ? [phases] : [])
  ];
}

/** The figures of a list of calls of a kind ('' for all). @param isCall rows are call groups */
export function callColumns(kind: string, rows: readonly CallRow[], isCall: boolean): Column<CallRow>[] {
  const giving = GIVING[kind] ?? [];
  const ranks = [...rankColumns<CallRow>(), ...failureColumns(rows)].map((column) =>
    giving.includes(column.key) ? { ...column, gives: giving.indexOf(column.key) } : column
  );
  if (kind === 'file') return [...ranks, ...FILE_COLUMNS];
  if (kind === 'http') return [...ranks, ...outgoingColumns(rows)];
  return isCall ? [...ranks, sizeColumn<CallRow>()] : ranks;
}

/** Statuses that are named in a row. */
const MOST_NAMED = 3;

/** The most frequent status, and how many calls had which other. */
export function statusesText(outgoing: Outgoing | null): string {
  if (!outgoing) return '';
  const [first, ...others] = outgoing.statuses;
  const named = others
    .slice(0, MOST_NAMED - 1)
    .map(({ status, calls }) => `${statusName(status)} × ${formatCount(calls)}`);
  const more = others.length >= MOST_NAMED ? ['…'] : [];
  return [statusName(first.status), ...named, ...more].join(', ');
}

/** 0 stands for no answer, or none that was recorded. */
export const statusName = (status: number): string => (status === 0 ? 'none' : String(status));
