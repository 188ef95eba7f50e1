import type { InStatement } from '@libsql/client';
import { mergeStatements } from '@tromix/core/calls/statement-log/groups';
import type { StatementGroup } from '@tromix/core/calls/statement-log/model';
import { groupBy } from '@tromix/core/group-by';
import { writeSketch } from '@tromix/core/stats/sketch';
import type { Database } from '../db/database';
import { rowsOf } from '../db/rows';
import { statementGroups } from '../db/schema';
import type { Dictionary } from './dictionary';

type StatementRow = typeof statementGroups.$inferInsert;
const STATEMENTS = rowsOf(statementGroups);

/** Rows of `statement_groups`: what a log file showed, under the numbers of the same call groups that traces use. */
export async function statementRows(
  database: Database,
  evidenceId: string,
  groups: readonly StatementGroup[],
  dictionary: Dictionary
): Promise<StatementRow[]> {
  // Beyond the guard on call groups several share one number: they are one row.
  const byGroup = groupBy(groups, ({ fingerprint, verb }) =>
    dictionary.callGroup('database', fingerprint, verb)
  );
  await dictionary.learn(database);
  return [...byGroup].map(([{ id }, [first, ...others]]) => {
    const all = others.reduce(mergeStatements, first);
    const { calls, totalNs, slowestNs, rows, rowsKnown, examined, lockNs, planNs } = all;
    return {
      evidenceId,
      groupId: id,
      calls,
      totalNs,
      slowestNs,
      rows,
      rowsKnown,
      examined,
      lockNs,
      planNs,
      askers: JSON.stringify([...all.askers]),
      sketch: writeSketch(all.sketch)
    };
  });
}

export const insertStatements = (rows: readonly StatementRow[]): InStatement =>
  STATEMENTS.insert('INSERT OR REPLACE', rows);
