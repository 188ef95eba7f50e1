import { readSketch } from '@tromix/core/stats/sketch';
import { select } from '../db/reader';
import { latency } from './rollups';

/** Statements of a log file, or of all of them. */
export interface LoggedRow {
  id: number;
  fingerprint: string;
  calls: number;
  totalNs: number;
  meanNs: number;
  slowestNs: number;
  p95Ns: number;
  rowsEach: number | null;
  /** Rows looked at, a call; 0 where not recorded. */
  examinedEach: number;
  /** Waits for locks within the total, parsing and planning beside it; 0 where not recorded. */
  lockNs: number;
  planNs: number;
  /** Who asked most: `user@database`. */
  asker: string;
  share: number;
  /** Seen in traces too. */
  traced: boolean;
}

interface Stored {
  id: number;
  fingerprint: string;
  calls: number;
  total: number;
  slowest: number;
  rows: number;
  rowsKnown: number;
  examined: number;
  lockNs: number;
  planNs: number;
  askers: string;
  sketches: string;
  traced: number;
}

/** Grouped statements of logs. @param evidenceId one log; '' for all. */
export async function loggedStatements(evidenceId: string): Promise<LoggedRow[]> {
  const rows = await select<Stored>(
    `SELECT g.group_id AS id, c.fingerprint AS fingerprint, sum(g.calls) AS calls, sum(g.total_ns) AS total, max(g.slowest_ns) AS slowest,
        sum(g.rows) AS rows, sum(g.rows_known) AS rowsKnown, sum(g.examined) AS examined, sum(g.lock_ns) AS lockNs,
        sum(g.plan_ns) AS planNs, json_group_array(json(g.askers)) AS askers, group_concat(g.sketch, ' ') AS sketches,
        EXISTS (SELECT 1 FROM call_rollups r WHERE r.step = 1440 AND r.group_id = g.group_id) AS traced
      FROM statement_groups g JOIN call_groups c ON c.id = g.group_id WHERE ? = '' OR g.evidence_id = ?
      GROUP BY g.group_id ORDER BY total DESC LIMIT 5000`,
    [evidenceId, evidenceId]
  );
  const all = rows.reduce((sum, { total }) => sum + total, 0);
  return rows.map((row) => {
    const [asker] = askersOf(JSON.parse(row.askers) as [string, number][][]);
    return {
      id: row.id,
      fingerprint: row.fingerprint,
      calls: row.calls,
      totalNs: row.total,
      meanNs: row.total / row.calls,
      slowestNs: row.slowest,
      p95Ns: latency({ sketch: readSketch(row.sketches) }, [0.95])[0],
      rowsEach: row.rowsKnown > 0 ? row.rows / row.rowsKnown : null,
      examinedEach: row.examined / row.calls,
      lockNs: row.lockNs,
      planNs: row.planNs,
      asker: asker?.[0] ?? '',
      share: all > 0 ? row.total / all : 0,
      traced: row.traced === 1
    };
  });
}

/** Who asked how often, over several logs, most first. */
function askersOf(logs: readonly [string, number][][]): [string, number][] {
  const sums = new Map<string, number>();
  for (const [name, calls] of logs.flat()) sums.set(name, (sums.get(name) ?? 0) + calls);
  return [...sums].sort((a, b) => b[1] - a[1]);
}
