import type { InStatement } from '@libsql/client';
import type { Database } from '../db/database';

/** Stores what is made when its turn has come: nothing else is stored in between. */
export type Store = (make: () => Promise<InStatement[]>) => Promise<void>;

/** So long nobody else judges after the last time one did, milliseconds: longer than the pause between two minutes. */
const LEASE_MS = 150_000;
const KEY = 'watches-judge';

const claim = (holder: string, nowMs: number): InStatement => ({
  sql: `INSERT INTO settings (key, value) VALUES (?1, json_object('holder', ?2, 'untilMs', ?3))
    ON CONFLICT (key) DO UPDATE SET value = excluded.value
    WHERE value->>'holder' = ?2 OR value->>'untilMs' < ?4 OR value->>'untilMs' > ?3`,
  args: [KEY, holder, nowMs + LEASE_MS, nowMs]
});

/**
 * Of several servers on one database one judges: who holds the lease, which goes on as long as it is renewed. One that reaches further than any
 * could is of a clock that was set back since.
 * @returns whether this one judges.
 */
export async function holdsLease(
  database: Database,
  store: Store,
  holder: string,
  nowMs: number
): Promise<boolean> {
  await store(() => Promise.resolve([claim(holder, nowMs)]));
  const { rows } = await database.query("SELECT value->>'holder' FROM settings WHERE key = ?", [KEY]);
  return rows[0]?.[0] === holder;
}
