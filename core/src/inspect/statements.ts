import type { StatementLog } from '../calls/statement-log/model';
import type { Warning } from '../formats/evidence-error';
import { sketchQuantiles } from '../stats/sketch';

export interface InspectedStatements {
  statements: number;
  /** Epoch microseconds; null where no line has a time. */
  firstUs: number | null;
  lastUs: number | null;
  /** Most total time first. `p95Ns` within 1 %; `rows` is the sum where reported, null where it is not. */
  groups: {
    fingerprint: string;
    calls: number;
    totalNs: number;
    meanNs: number;
    p95Ns: number;
    slowestNs: number;
    rows: number | null;
    /** Rows the server looked at, planning and waits for locks where reported; 0 where not. */
    examined: number;
    planNs: number;
    lockNs: number;
    askers: { name: string; calls: number }[];
  }[];
  warnings: Warning[];
}

/**
 * Everything `tromix inspect` says about a log of statements.
 * @param top most groups listed; 0 for all.
 */
export function inspectStatements(
  { statements, firstUs, lastUs, groups, warnings }: StatementLog,
  top: number
): InspectedStatements {
  return {
    statements,
    firstUs,
    lastUs,
    groups: groups.slice(0, top === 0 ? undefined : top).map((group) => ({
      fingerprint: group.fingerprint,
      calls: group.calls,
      totalNs: group.totalNs,
      meanNs: group.totalNs / group.calls,
      p95Ns: sketchQuantiles(group.sketch, [0.95])[0] * 1000,
      slowestNs: group.slowestNs,
      rows: group.rowsKnown > 0 ? group.rows : null,
      examined: group.examined,
      planNs: group.planNs,
      lockNs: group.lockNs,
      askers: [...group.askers].map(([name, calls]) => ({ name, calls })).sort((a, b) => b.calls - a.calls)
    })),
    warnings
  };
}
