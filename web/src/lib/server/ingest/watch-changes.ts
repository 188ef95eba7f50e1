import type { InStatement } from '@libsql/client';
import type { BoardChart } from '@tromix/core/watch/board';
import type { Watch } from '@tromix/core/watch/watch';
import * as tables from '../db/schema';
import { insert, update } from '../db/one-row';
import { endFirings } from '../watch/end-firings';

// Changes to watches, hooks and boards, by name (see `changes.ts`).

const nowUs = (): number => Date.now() * 1000;
const nowMinute = (): number => Math.floor(Date.now() / 60_000);

/** A time for which it was on ends where what it was on for is changed. Nothing happens where it has another version by now. */
function beginAnew(id: string, version: number): InStatement[] {
  const same = 'FROM watches WHERE id = ? AND version = ?';
  const minute = nowMinute();
  return [
    endFirings({ where: `watch_id IN (SELECT id ${same})`, args: [id, version] }, 'changed'),
    {
      sql: `INSERT OR REPLACE INTO watch_standings (watch_id, judged, state, since, over, back, none, value, "before", firing_id)
        SELECT id, ?, 'new', ?, 0, 0, 0, NULL, NULL, '' ${same}`,
      args: [minute - 1, minute, id, version]
    }
  ];
}

export const WATCH_CHANGES = {
  /** @param fromMinute the first minute that is judged */
  addWatch: (id: string, watch: Watch, fromMinute = nowMinute()): InStatement[] => [
    insert('INSERT', tables.watches, { id, body: JSON.stringify(watch), createdAtUs: fromMinute * 60e6 })
  ],
  /** What somebody else changed meanwhile is never overwritten. @param isAnew where its condition is another */
  changeWatch: (id: string, version: number, watch: Watch, isAnew: boolean): InStatement[] => [
    ...(isAnew ? beginAnew(id, version) : []),
    {
      sql: 'UPDATE watches SET body = ?, version = version + 1 WHERE id = ? AND version = ?',
      args: [JSON.stringify(watch), id, version]
    }
  ],
  /** What it told stays listed for as long as anything does. */
  removeWatch: (id: string): InStatement[] => [
    ...['watch_standings', 'watch_tasks', 'watch_firings'].map((table) => ({
      sql: `DELETE FROM ${table} WHERE watch_id = ?`,
      args: [id]
    })),
    { sql: 'DELETE FROM watches WHERE id = ?', args: [id] },
    // Nothing is recorded any more for what nobody watches.
    { sql: "DELETE FROM recording_plans WHERE body->>'$.when.watch' = ?", args: [id] }
  ],
  /** @param untilUs 0 for not silenced */
  silenceWatch: (id: string, untilUs: number): InStatement[] => [
    update(tables.watches, id, { silentUntilUs: untilUs })
  ],
  /** The first who looked is kept. */
  seeFiring: (id: string, by: string): InStatement[] => [
    {
      sql: 'UPDATE watch_firings SET seen_by = ?, seen_at_us = ? WHERE id = ? AND seen_at_us IS NULL',
      args: [by, nowUs(), id]
    }
  ],
  openFiringCase: (id: string, caseId: string): InStatement[] => [
    update(tables.watchFirings, id, { caseId })
  ],
  updateTask: (id: string, changed: { state: string; message: string }): InStatement[] => [
    update(tables.watchTasks, id, changed)
  ],

  putHook: (hook: Omit<typeof tables.hooks.$inferInsert, 'createdAtUs'>): InStatement[] => [
    insert('INSERT OR REPLACE', tables.hooks, { ...hook, createdAtUs: nowUs() })
  ],
  removeHook: (id: string): InStatement[] => [
    { sql: 'DELETE FROM hooks WHERE id = ?', args: [id] },
    { sql: "DELETE FROM deliveries WHERE hook_id = ? AND state = 'waiting'", args: [id] }
  ],
  addDelivery: (delivery: typeof tables.deliveries.$inferInsert): InStatement[] => [
    insert('INSERT', tables.deliveries, delivery)
  ],
  updateDelivery: (id: string, changed: Partial<typeof tables.deliveries.$inferInsert>): InStatement[] => [
    update(tables.deliveries, id, changed)
  ],
  /** @param beforeUs what was sent, or given up, before then is listed no more; @param beforeMinute times on that ended before then */
  forgetNotices: (beforeUs: number, beforeMinute: number): InStatement[] => [
    { sql: "DELETE FROM deliveries WHERE created_at_us < ? AND state <> 'waiting'", args: [beforeUs] },
    { sql: "DELETE FROM watch_tasks WHERE created_at_us < ? AND state <> 'waiting'", args: [beforeUs] },
    { sql: 'DELETE FROM watch_firings WHERE off_minute < ?', args: [beforeMinute] }
  ],

  addBoard: (id: string, name: string, charts: readonly BoardChart[]): InStatement[] => [
    insert('INSERT', tables.boards, { id, name, charts: JSON.stringify(charts), changedAtUs: nowUs() })
  ],
  changeBoard: (id: string, version: number, name: string, charts: readonly BoardChart[]): InStatement[] => [
    {
      sql: 'UPDATE boards SET name = ?, charts = ?, version = version + 1, changed_at_us = ? WHERE id = ? AND version = ?',
      args: [name, JSON.stringify(charts), nowUs(), id, version]
    }
  ],
  removeBoard: (id: string): InStatement[] => [{ sql: 'DELETE FROM boards WHERE id = ?', args: [id] }]
};
