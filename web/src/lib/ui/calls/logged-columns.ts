import { formatCount } from '@tromix/core/text/format';
import type { LoggedRow } from '$lib/server/queries/statements';
import type { Column } from '../tables/columns';
import { countColumn, durationColumn, shareColumn } from '../tables/column-makers';

const threeDigits = (value: number): string => formatCount(Number(value.toPrecision(3)));

const COLUMNS: Column<LoggedRow>[] = [
  { key: 'statement', title: 'statement', width: 240, grows: true, value: ({ fingerprint }) => fingerprint },
  shareColumn('share', 'share', ({ share }) => share, {
    width: 58,
    about: 'Of the time of all statements in the log'
  }),
  durationColumn('total', 'total', ({ totalNs }) => totalNs),
  countColumn('calls', 'calls', ({ calls }) => calls, { width: 72 }),
  durationColumn('mean', 'mean', ({ meanNs }) => meanNs, { width: 76 }),
  durationColumn('p95', 'p95', ({ p95Ns }) => p95Ns, { width: 76 }),
  durationColumn('slowest', 'slowest', ({ slowestNs }) => slowestNs, { width: 76 }),
  {
    ...countColumn<LoggedRow>('rows', 'rows each', ({ rowsEach }) => rowsEach, { width: 76 }),
    text: ({ rowsEach }) => (rowsEach === null ? '' : threeDigits(rowsEach))
  },
  { key: 'asker', title: 'called by', width: 120, value: ({ asker }) => asker, text: ({ asker }) => asker }
];

/** What only some logs record: a figure, 0 where they do not, and its column. */
const WHERE_RECORDED: { of: (row: LoggedRow) => number; column: Column<LoggedRow> }[] = [
  {
    of: ({ examinedEach }) => examinedEach,
    column: {
      ...countColumn<LoggedRow>('examined', 'examined each', ({ examinedEach }) => examinedEach, {
        width: 100,
        about: 'Rows the database looked at, a call'
      }),
      text: ({ examinedEach }) => threeDigits(examinedEach)
    }
  },
  {
    of: ({ lockNs }) => lockNs,
    column: durationColumn('locks', 'in locks', ({ lockNs }) => lockNs, {
      about: 'Of the total, waits for locks'
    })
  },
  {
    of: ({ planNs }) => planNs,
    column: durationColumn('planning', 'planning', ({ planNs }) => planNs, {
      about: 'Parsing and planning, beside the total'
    })
  }
];

/** Columns of statements of logs; those that none of the logs records are left out. */
export function loggedColumns(rows: readonly LoggedRow[]): Column<LoggedRow>[] {
  const recorded = WHERE_RECORDED.filter(({ of }) => rows.some((row) => of(row) > 0)).map(
    ({ column }) => column
  );
  const asker = COLUMNS.length - 1;
  return [...COLUMNS.slice(0, asker), ...recorded, COLUMNS[asker]];
}
