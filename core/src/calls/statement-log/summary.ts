import * as v from 'valibot';
import { Count, SummaryWarnings } from '../../evidence/summary-parts';
import type { StatementLog } from './model';

/** What a list of evidence says of a log of statements. */
export const StatementsSummary = v.object({
  /** Statements in it, and their time together, nanoseconds. */
  samples: v.optional(Count, 0),
  sum: v.optional(Count, 0),
  warnings: SummaryWarnings
});
export type StatementsSummary = v.InferOutput<typeof StatementsSummary>;

export function summariseStatements({ statements, groups, warnings }: StatementLog): StatementsSummary {
  return { samples: statements, sum: groups.reduce((all, { totalNs }) => all + totalNs, 0), warnings };
}
