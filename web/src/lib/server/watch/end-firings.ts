import type { InStatement } from '@libsql/client';

interface Which {
  /** A WHERE part, in which `?` stands for the argument. */
  where: string;
  args: (string | number)[];
}

/** Ends times for which watches were on, for another reason than their limits. One never ends before it began. */
export const endFirings = ({ where, args }: Which, why: 'changed' | 'clock'): InStatement => ({
  sql: `UPDATE watch_firings SET off_minute = max(on_minute, ?), ended = ? WHERE off_minute IS NULL AND ${where}`,
  args: [Math.floor(Date.now() / 60_000), why, ...args]
});
