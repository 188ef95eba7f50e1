import type { InStatement } from '@libsql/client';
import type { StatementGroup } from '@tromix/core/calls/statement-log';
import { writeSketch } from '@tromix/core/stats/sketch';
import { bulkInsert } from '../db/bulk';
import type { Dictionary } from './dictionary';

const COLUMNS = [
  'evidence_id',
  'group_id',
  'calls',
  'total_ns',
  'slowest_ns',
  'rows',
  'rows_known',
  'askers',
  'sketch'
];

/** Rows of `statement_groups`: what a log file told, under the numbers of the same call groups that traces use. */
export function statementRows(
  evidenceId: string,
  groups: readonly StatementGroup[],
  dictionary: Dictionary
): unknown[][] {
  const rows = new Map<number, unknown[]>();
  for (const group of groups) {
    const id = dictionary.callGroup('database', group.fingerprint, group.verb);
    // Beyond the guard on call groups several share one number: the first stands.
    if (rows.has(id)) continue;
    rows.set(id, [
      evidenceId,
      id,
      group.calls,
      group.totalNs,
      group.slowestNs,
      group.rows,
      group.rowsKnown,
      [...group.askers],
      writeSketch(group.sketch)
    ]);
  }
  return [...rows.values()];
}

export const insertStatements = (rows: unknown[][]): InStatement =>
  bulkInsert('INSERT OR REPLACE', 'statement_groups', COLUMNS, rows, ['askers']);
