import { formatCount, formatDuration, formatShare } from '@tromix/core/text/format';
import type { LoggedRow } from '$lib/server/queries/statements';
import type { Column } from '../tables/columns';

const COLUMNS: Column<LoggedRow>[] = [
  {
    key: 'statement',
    title: 'statement',
    width: 240,
    grows: true,
    value: ({ fingerprint }) => fingerprint
  },
  {
    key: 'share',
    title: 'share',
    about: 'Of the time of all statements in the log',
    width: 58,
    right: true,
    value: ({ share }) => share,
    text: ({ share }) => formatShare(share)
  },
  {
    key: 'total',
    title: 'total',
    width: 78,
    right: true,
    value: ({ totalNs }) => totalNs,
    text: ({ totalNs }) => formatDuration(totalNs)
  },
  {
    key: 'calls',
    title: 'calls',
    width: 72,
    right: true,
    value: ({ calls: count }) => count,
    text: ({ calls: count }) => formatCount(count)
  },
  {
    key: 'mean',
    title: 'mean',
    width: 76,
    right: true,
    value: ({ meanNs }) => meanNs,
    text: ({ meanNs }) => formatDuration(meanNs)
  },
  {
    key: 'p95',
    title: 'p95',
    width: 76,
    right: true,
    value: ({ p95Ns }) => p95Ns,
    text: ({ p95Ns }) => formatDuration(p95Ns)
  },
  {
    key: 'slowest',
    title: 'slowest',
    width: 76,
    right: true,
    value: ({ slowestNs }) => slowestNs,
    text: ({ slowestNs }) => formatDuration(slowestNs)
  },
  {
    key: 'rows',
    title: 'rows each',
    width: 76,
    right: true,
    value: ({ rowsEach }) => rowsEach,
    text: ({ rowsEach }) => (rowsEach === null ? '' : formatCount(Number(rowsEach.toPrecision(3))))
  },
  { key: 'asker', title: 'asked by', width: 120, value: ({ asker }) => asker, text: ({ asker }) => asker }
];

/** A column whose value is 0 where the log does not tell it. */
type TellingColumn = Omit<Column<LoggedRow>, 'value'> & { value: (row: LoggedRow) => number };

/** What only some logs tell. */
const WHERE_TOLD: TellingColumn[] = [
  {
    key: 'examined',
    title: 'examined each',
    about: 'Rows the database looked at, a call',
    width: 100,
    right: true,
    value: ({ examinedEach }) => examinedEach,
    text: ({ examinedEach }) => formatCount(Number(examinedEach.toPrecision(3)))
  },
  {
    key: 'locks',
    title: 'in locks',
    about: 'Of the total, waits for locks',
    width: 78,
    right: true,
    value: ({ lockNs }) => lockNs,
    text: ({ lockNs }) => formatDuration(lockNs)
  },
  {
    key: 'planning',
    title: 'planning',
    about: 'Parsing and planning, beside the total',
    width: 78,
    right: true,
    value: ({ planNs }) => planNs,
    text: ({ planNs }) => formatDuration(planNs)
  }
];

/** Columns of statements of logs; those that no log of them tells are left out. */
export function loggedColumns(rows: readonly LoggedRow[]): Column<LoggedRow>[] {
  const told = WHERE_TOLD.filter(({ value }) => rows.some((row) => value(row) > 0));
  const asker = COLUMNS.length - 1;
  return [...COLUMNS.slice(0, asker), ...told, COLUMNS[asker]];
}
