import { randomUUID } from 'node:crypto';
import type { InStatement } from '@libsql/client';
import { noticeOf, type NoticeKind } from '@tromix/core/watch/notice';
import type { Firing, Step } from '@tromix/core/watch/walk';
import { SEVERITIES, type Severity } from '@tromix/core/watch/watch';
import { jsonOf, type Database } from '../db/database';
import { rowsOf } from '../db/rows';
import { deliveries, watchFirings, watchStandings, watchTasks } from '../db/schema';
import type { StoredStanding, StoredWatch } from './stored';

const FIRINGS = rowsOf(watchFirings);
const STANDINGS = rowsOf(watchStandings);
const DELIVERIES = rowsOf(deliveries);
const TASKS = rowsOf(watchTasks);

type FiringRow = typeof watchFirings.$inferInsert;
type IdentifiedFiring = Firing & { id: string };

/** What was over longer ago than this when it is judged is history: it is listed, and nobody is told. Minutes. */
const TOLD_LATE = 10;

/** What came of judging some minutes, as rows: how watches stand, when they were on, and what is to be told and done. It is stored as one. */
export class JudgedRows {
  readonly #hooks: readonly { id: string; least: Severity }[];
  readonly #nowMs: number;
  readonly #last: number;
  readonly #firings = new Map<string, FiringRow>();
  readonly #changed = new Map<string, [worst: number | null, off: number | null, ended: string]>();
  readonly #watchOf = new Map<string, StoredWatch>();
  #standings: { watch: StoredWatch; row: typeof watchStandings.$inferInsert }[] = [];
  #told: { kind: NoticeKind; watch: StoredWatch; firing: IdentifiedFiring; late: number }[] = [];
  readonly #ended = new Set<string>();

  private constructor(hooks: readonly { id: string; least: Severity }[], nowMs: number, last: number) {
    this.#hooks = hooks;
    this.#nowMs = nowMs;
    this.#last = last;
  }

  /** @param last the newest minute that can be judged: what lies before it is judged late */
  static async open(database: Database, nowMs: number, last: number): Promise<JudgedRows> {
    const hooks = await jsonOf<[string, Severity]>(
      database,
      'SELECT json_group_array(json_array(id, least)) FROM hooks'
    );
    return new JudgedRows(
      hooks.map(([id, least]) => ({ id, least })),
      nowMs,
      last
    );
  }

  /** A watch came on. */
  began(watch: StoredWatch, firing: IdentifiedFiring): IdentifiedFiring {
    const silenced = watch.silentUntilUs > this.#nowMs * 1000 ? 1 : 0;
    const lateMinutes = this.#last - firing.on;
    this.#firings.set(firing.id, {
      id: firing.id,
      watchId: watch.id,
      onMinute: firing.on,
      offMinute: null,
      ended: '',
      value: firing.value,
      before: firing.before,
      worst: firing.worst,
      lateMinutes,
      silenced,
      caseId: '',
      seenBy: '',
      seenAtUs: null
    });
    this.#watchOf.set(firing.id, watch);
    this.#told.push({ kind: 'on', watch, firing, late: lateMinutes });
    return firing;
  }

  /** It went on, and perhaps further than before; or off. @returns null once it is off */
  went(watch: StoredWatch, last: IdentifiedFiring, firing: IdentifiedFiring): IdentifiedFiring | null {
    if (firing.off === null && firing.worst === last.worst) return last;
    const ended = firing.off === null ? '' : firing.byNoData ? 'no data' : 'off';
    const fresh = this.#firings.get(firing.id);
    if (fresh) Object.assign(fresh, { worst: firing.worst, offMinute: firing.off, ended });
    else this.#changed.set(firing.id, [firing.worst, firing.off, ended]);
    if (firing.off === null) return firing;
    this.#ended.add(firing.id);
    const kind = firing.byNoData ? 'no data' : 'off';
    this.#told.push({ kind, watch, firing, late: this.#last - firing.off });
    return null;
  }

  /** There has been no value for long. */
  silent(watch: StoredWatch, { minute }: Step): void {
    if (!watch.watch.tellsNoData) return;
    const firing = { id: '', on: minute, off: null, byNoData: true, value: null, before: null, worst: null };
    this.#told.push({ kind: 'no data', watch, firing, late: this.#last - minute });
  }

  stands(watch: StoredWatch, { firing, ...standing }: StoredStanding): void {
    const row = { ...standing, watchId: watch.id, firingId: firing?.id ?? '' };
    this.#standings.push({ watch, row });
  }

  /** Whether anybody is to be told, or something to be done. */
  get tells(): boolean {
    return this.#told.length > 0;
  }

  /** @param versions of the watches as they are now: one that was changed or removed while it was judged said nothing */
  statements(versions: ReadonlyMap<string, number>): InStatement[] {
    this.#leave(versions);
    const tasks = this.#tasks();
    const sent = this.#deliveries();
    return [
      ...(this.#firings.size > 0 ? [FIRINGS.insert('INSERT OR REPLACE', [...this.#firings.values()])] : []),
      ...[...this.#changed].map(([id, values]): InStatement => ({
        sql: 'UPDATE watch_firings SET worst = ?, off_minute = ?, ended = ? WHERE id = ?',
        args: [...values, id]
      })),
      ...(this.#standings.length > 0
        ? [
            STANDINGS.insert(
              'INSERT OR REPLACE',
              this.#standings.map(({ row }) => row)
            )
          ]
        : []),
      ...(sent.length > 0 ? [DELIVERIES.insert('INSERT', sent)] : []),
      ...(tasks.length > 0 ? [TASKS.insert('INSERT', tasks)] : [])
    ];
  }

  #leave(versions: ReadonlyMap<string, number>): void {
    const isGone = (watch: StoredWatch): boolean => versions.get(watch.id) !== watch.version;
    for (const [id, watch] of this.#watchOf) if (isGone(watch)) this.#firings.delete(id);
    this.#told = this.#told.filter(({ watch }) => !isGone(watch));
    this.#standings = this.#standings.filter(({ watch }) => !isGone(watch));
  }

  /** What is told: not of one that is silenced, and of what is over long ago nothing. That it is off is told to whom it was told that it is on. */
  #deliveries(): (typeof deliveries.$inferInsert)[] {
    const atUs = this.#nowMs * 1000;
    return this.#told.flatMap(({ kind, watch, firing, late }) => {
      if (watch.silentUntilUs > atUs || this.#isHistory(firing, late)) return [];
      const notice = noticeOf(kind, watch.id, watch.watch, firing, this.#nowMs, late);
      return this.#hooks
        .filter(({ least }) => SEVERITIES.indexOf(watch.watch.severity) >= SEVERITIES.indexOf(least))
        .map(({ id: hookId }) => ({
          id: randomUUID(),
          hookId,
          firingId: firing.id,
          kind,
          body: JSON.stringify(notice),
          state: 'waiting',
          tries: 0,
          nextAtUs: atUs,
          status: 0,
          message: '',
          createdAtUs: atUs
        }));
    });
  }

  #tasks(): (typeof watchTasks.$inferInsert)[] {
    return [...this.#firings.values()].flatMap((firing) => {
      const { actions } = this.#watchOf.get(firing.id)!.watch;
      const isAsked = actions.case || actions.record.length > 0;
      // What is over cannot be recorded any more, and what was missed is not what is now.
      if (!isAsked || firing.silenced === 1 || this.#ended.has(firing.id)) return [];
      return [
        {
          id: randomUUID(),
          watchId: firing.watchId,
          firingId: firing.id,
          actions: JSON.stringify(actions),
          state: 'waiting',
          message: '',
          createdAtUs: this.#nowMs * 1000
        }
      ];
    });
  }

  #isHistory(firing: IdentifiedFiring, late: number): boolean {
    return late > TOLD_LATE && (firing.off !== null || this.#ended.has(firing.id));
  }
}
