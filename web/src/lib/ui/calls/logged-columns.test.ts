import { describe, expect, it } from 'vitest';
import type { LoggedRow } from '$lib/server/queries/statements';
import { loggedColumns } from './logged-columns';

const row: LoggedRow = {
  id: 1,
  fingerprint: 'select * from berth where id = ?',
  calls: 20,
  totalNs: 2e9,
  meanNs: 1e8,
  slowestNs: 3e8,
  p95Ns: 2.5e8,
  rowsEach: 1,
  examinedEach: 0,
  lockNs: 0,
  planNs: 0,
  asker: 'berths@quay',
  share: 1,
  traced: false
};
const keys = (...rows: LoggedRow[]): string[] => loggedColumns(rows).map(({ key }) => key);

describe('columns of statements in a log', () => {
  it('are those the log tells, who asked last', () => {
    expect(keys(row)).toEqual([
      'statement',
      'share',
      'total',
      'calls',
      'mean',
      'p95',
      'slowest',
      'rows',
      'asker'
    ]);
    expect(keys(row, { ...row, examinedEach: 4000, lockNs: 3e8 }).slice(-3)).toEqual([
      'examined',
      'locks',
      'asker'
    ]);
    expect(keys({ ...row, planNs: 1 }).slice(-2)).toEqual(['planning', 'asker']);
  });

  it('say rows looked at for each call, and time in locks of all', () => {
    const columns = loggedColumns([{ ...row, examinedEach: 4012.5, lockNs: 3e8 }]);
    const text = (key: string): string =>
      columns.find((column) => column.key === key)!.text!({ ...row, examinedEach: 4012.5, lockNs: 3e8 });
    expect([text('examined').replaceAll(/\s/gu, ' '), text('locks').replaceAll(/\s/gu, ' ')]).toEqual([
      '4 010',
      '300 ms'
    ]);
  });
});
