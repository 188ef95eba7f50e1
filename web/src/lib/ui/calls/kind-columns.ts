import { formatCount } from '@tromix/core/text/format';
import type { CallRow } from '$lib/server/queries/calls';
import type { Outgoing } from '$lib/server/queries/outgoing';
import {
  bytesColumn,
  countColumn,
  durationColumn,
  rareColumn,
  textColumn
} from '$lib/ui/tables/column-makers';
import type { Column } from '$lib/ui/tables/columns';

const known = (bytes: number): number | null => (bytes > 0 ? bytes : null);
const about = 'The endpoint that makes most of these calls';
const asker = textColumn<CallRow>('asker', 'asked by', ({ asker: name }) => name, { width: 150, about });

/** What a list of files tells besides the ranks. @param called whether rows are what is asked rather than who asks */
export const fileColumns = (called: boolean): Column<CallRow>[] => [
  countColumn('opens', 'opens', ({ opens }) => opens, {
    width: 70,
    about: 'Calls that open a file: open, and reading or writing a whole file by its path'
  }),
  bytesColumn('read', 'read', ({ bytesRead }) => known(bytesRead), { about: 'Bytes, where calls say' }),
  bytesColumn('written', 'written', ({ bytesWritten }) => known(bytesWritten), {
    about: 'Bytes, where calls say'
  }),
  ...(called ? [asker] : [])
];

/** What a list of outgoing requests tells besides the ranks: columns of which something is told. */
export function outgoingColumns(rows: readonly CallRow[], called: boolean): Column<CallRow>[] {
  const tells = (value: (one: Outgoing) => number): boolean =>
    rows.some(({ outgoing }) => outgoing !== null && value(outgoing) > 0);
  const phase = (
    key: string,
    title: string,
    sumNs: (one: Outgoing) => number,
    of: 'phased' | 'answered',
    what: string
  ): Column<CallRow>[] =>
    tells((one) => one[of])
      ? [
          durationColumn<CallRow>(
            key,
            title,
            ({ outgoing }) => (outgoing && outgoing[of] > 0 ? sumNs(outgoing) / outgoing[of] : null),
            { about: `${what}, on average over the calls that tell it` }
          )
        ]
      : [];
  const repeated = rareColumn<CallRow>('repeated', 'repeated', ({ outgoing }) => outgoing?.repeated ?? 0, {
    width: 72,
    about: 'Asked before in the same request with the same address'
  });
  return [
    textColumn<CallRow>('status', 'status', ({ outgoing }) => statusesText(outgoing), {
      width: 110,
      about: 'Statuses of the answers, the most frequent first'
    }),
    ...(tells((one) => one.repeated) ? [repeated] : []),
    ...phase('connect', 'connect', connectNs, 'phased', 'Looking up the name, connecting and TLS'),
    ...phase(
      'firstByte',
      'first byte',
      ({ firstByteNs }) => firstByteNs,
      'answered',
      'From the connection to the first byte'
    ),
    ...phase('rest', 'rest', ({ restNs }) => restNs, 'answered', 'From the first byte to the end'),
    ...(called ? [asker] : [])
  ];
}

const connectNs = ({ lookupNs, connectNs: connect, tlsNs }: Outgoing): number => lookupNs + connect + tlsNs;

/** Statuses that are named in a row. */
const MOST_NAMED = 3;

/** Statuses and how many calls had each: where there is one, it alone. */
export function statusesText(outgoing: Outgoing | null): string {
  if (!outgoing) return '';
  const { statuses } = outgoing;
  if (statuses.length === 1) return statusName(statuses[0].status);
  const named = statuses
    .slice(0, MOST_NAMED)
    .map(({ status, calls }) => `${statusName(status)} × ${formatCount(calls)}`)
    .join(', ');
  return statuses.length > MOST_NAMED ? `${named}, …` : named;
}

/** 0 stands for no answer, or none that was recorded. */
export const statusName = (status: number): string => (status === 0 ? 'none told' : String(status));
