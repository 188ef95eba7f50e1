import type { InStatement } from '@libsql/client';
import type { Database } from '../../db/database';
import { ROLLUP_DAYS } from '$lib/roll-up-steps';
import { LEVELS, MINUTE_DAYS } from '../../counters/levels';
import { LIVE_MS } from './series-book';

const DAY_MS = 86_400_000;
const HOUR_MS = 3_600_000;

/** When the oldest points end that are summed up already, epoch milliseconds; null for none. */
export async function oldestPointsMs(database: Database): Promise<number | null> {
  const { rows } = await database.query(
    'SELECT min(end_ms) FROM counter_blocks WHERE level = ? AND rolled = 1',
    [LEVELS.points]
  );
  return rows[0][0] === null ? null : Number(rows[0][0]);
}

/** Removes blocks of a level that end before a moment. Those that are not summed up yet stay, however old. */
const removeBlocks = (level: number, beforeMs: number): InStatement => ({
  sql: 'DELETE FROM counter_blocks WHERE level = ? AND rolled = 1 AND end_ms < ?',
  args: [level, beforeMs]
});
const removeTimes = (beforeMs: number): InStatement => ({
  sql: 'DELETE FROM counter_times WHERE end_ms < ?',
  args: [beforeMs]
});

/** Removes points that end in the hour from a moment on; their sums stay. */
export const removePoints = (fromMs: number): InStatement[] => [
  removeBlocks(LEVELS.points, fromMs + HOUR_MS),
  removeTimes(fromMs + HOUR_MS)
];

/** Removes points and sums that are kept no longer, then the series that have none, and the senders of none. @param pointDays how long points are kept */
export function removeOldCounters(nowMs: number, pointDays: number): InStatement[] {
  const before = (days: number): number => nowMs - days * DAY_MS;
  const kept: [level: number, days: number][] = [
    [LEVELS.points, pointDays],
    [LEVELS.minutes, Math.max(MINUTE_DAYS, pointDays)],
    [LEVELS.hours, ROLLUP_DAYS[360]]
  ];
  return [
    ...kept.map(([level, days]) => removeBlocks(level, before(days))),
    removeTimes(before(pointDays)),
    {
      sql: `DELETE FROM counter_series WHERE last_ms < ? AND NOT EXISTS (SELECT 1 FROM counter_blocks b WHERE b.series_id = counter_series.id)
        AND NOT EXISTS (SELECT 1 FROM counter_batches)`,
      args: [nowMs - 2 * LIVE_MS]
    },
    {
      sql: 'DELETE FROM counter_sources WHERE id NOT IN (SELECT source_id FROM counter_series) AND NOT EXISTS (SELECT 1 FROM counter_batches)',
      args: []
    },
    { sql: 'DELETE FROM counter_refusals WHERE at_ms < ?', args: [before(pointDays)] }
  ];
}
