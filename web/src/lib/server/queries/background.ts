import { namedHost, scopeWindow, type Scope, type TimeWindow } from '$lib/scope';
import { select } from '../db/reader';

/** Background work of one name of one service. Times in nanoseconds. */
export interface BackgroundRow {
  service: string;
  name: string;
  count: number;
  failed: number;
  totalNs: number;
  longestNs: number;
  calls: number;
  /** The longest of them, as the end of its address. */
  path: string;
}

export interface Background {
  window: TimeWindow;
  rows: BackgroundRow[];
  count: number;
}

/** Names listed at most. */
const MAX_ROWS = 500;

/** What ran in a window and served nobody, alike work together, the most time first. */
export async function backgroundOf(scope: Scope, nowMs: number): Promise<Background> {
  const window = scopeWindow(scope, nowMs);
  const { sql, args } = filterOf(scope, window);
  const rows = await select<BackgroundRow>(
    // Bare columns beside max() are those of the row that holds it (SQLite, "Bare columns in an aggregate query").
    `SELECT s.name AS service, b.name AS name, count(*) AS count, sum(b.failed) AS failed, sum(b.duration_ns) AS totalNs,
        max(b.duration_ns) AS longestNs, sum(b.call_count) AS calls, b.trace_id || '/' || b.span_id AS path
      FROM background_work b JOIN services s ON s.id = b.service_id WHERE ${sql}
      GROUP BY b.service_id, b.name ORDER BY totalNs DESC LIMIT ${MAX_ROWS}`,
    args
  );
  return { window, rows, count: await countOf(scope, window) };
}

/** How many pieces of background work ran in a window. */
export async function countOf(scope: Scope, window: TimeWindow): Promise<number> {
  const { sql, args } = filterOf(scope, window);
  const [{ count }] = await select<{ count: number }>(
    `SELECT count(*) AS count FROM background_work b WHERE ${sql}`,
    args
  );
  return count;
}

function filterOf(scope: Scope, window: TimeWindow): { sql: string; args: (string | number)[] } {
  const conditions: [sql: string, value: string][] = [
    ['b.service_id = (SELECT id FROM services WHERE name = ?)', scope.service],
    [
      `b.host_id ${namedHost(scope).but ? 'IS NOT' : '='} (SELECT id FROM hosts WHERE name = ?)`,
      namedHost(scope).name
    ],
    ['b.release_id IN (SELECT id FROM releases WHERE name = ?)', scope.release]
  ];
  const asked = conditions.filter(([, value]) => value !== '');
  return {
    sql: ['b.start_us >= ? AND b.start_us < ?', ...asked.map(([sql]) => sql)].join(' AND '),
    args: [window.fromUs, window.toUs, ...asked.map(([, value]) => value)]
  };
}
