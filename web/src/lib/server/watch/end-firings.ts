import type { InStatement } from '@libsql/client';
import { oneOf } from '../db/bulk';

/** Ends times for which watches were on, for another reason than their limits. One never ends before it began. @param by what the ids are of: firings, or watches */
export const endFirings = (
  by: 'id' | 'watch_id',
  ids: readonly string[],
  why: 'changed' | 'clock'
): InStatement => ({
  sql: `UPDATE watch_firings SET off_minute = max(on_minute, ?), ended = ? WHERE off_minute IS NULL AND ${oneOf(by)}`,
  args: [Math.floor(Date.now() / 60_000), why, JSON.stringify(ids)]
});
