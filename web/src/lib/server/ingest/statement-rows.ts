import type { InStatement } from '@libsql/client';
import { mergeStatements } from '@tromix/core/calls/statement-log/groups';
import type { StatementGroup } from '@tromix/core/calls/statement-log/model';
import { groupBy } from '@tromix/core/group-by';
import { writeSketch } from '@tromix/core/stats/sketch';
import { bulkInsert } from '../db/bulk';
import type { Database } from '../db/database';
import type { Dictionary } from './dictionary';

const COLUMNS = [
  'evidence_id',
  'group_id',
  'calls',
  'total_ns',
  'slowest_ns',
  'rows',
  'rows_known',
  'examined',
  'lock_ns',
  'plan_ns',
  'askers',
  'sketch'
];

/** Rows of `statement_groups`: what a log file told, under the numbers of the same call groups that traces use. */
export async function statementRows(
  database: Database,
  evidenceId: string,
  groups: readonly StatementGroup[],
  dictionary: Dictionary
): Promise<unknown[][]> {
  // Beyond the guard on call groups several share one number: they are one row.
  const byGroup = groupBy(groups, ({ fingerprint, verb }) =>
    dictionary.callGroup('database', fingerprint, verb)
  );
  await dictionary.learn(database);
  return [...byGroup].map(([{ id }, [first, ...others]]) => {
    const all = others.reduce(mergeStatements, first);
    return [
      evidenceId,
      id,
      all.calls,
      all.totalNs,
      all.slowestNs,
      all.rows,
      all.rowsKnown,
      all.examined,
      all.lockNs,
      all.planNs,
      [...all.askers],
      writeSketch(all.sketch)
    ];
  });
}

export const insertStatements = (rows: unknown[][]): InStatement =>
  bulkInsert('INSERT OR REPLACE', 'statement_groups', COLUMNS, rows);
