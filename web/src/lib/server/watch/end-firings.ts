import type { InStatement } from '@libsql/client';

/** Ends times for which watches were on, for another reason than their limits. One never ends before it began. */
export const endFirings = (
  ids: readonly string[],
  why: 'changed' | 'clock',
  minute = Math.floor(Date.now() / 60_000)
): InStatement => ({
  sql: 'UPDATE watch_firings SET off_minute = max(on_minute, ?), ended = ? WHERE off_minute IS NULL AND id IN (SELECT value FROM json_each(?))',
  args: [minute, why, JSON.stringify(ids)]
});
