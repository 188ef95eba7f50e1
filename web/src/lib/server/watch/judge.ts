import { randomUUID } from 'node:crypto';
import { groupBy } from '@tromix/core/group-by';
import { firingAfter, walk } from '@tromix/core/watch/walk';
import { oneOf } from '../db/bulk';
import type { Database } from '../db/database';
import { readKnown, type Baselines } from './known';
import { holdsLease, type Store } from './lease';
import { endFirings } from './end-firings';
import { JudgedRows } from './judged-rows';
import {
  readStandings,
  readWatches,
  unjudged,
  versionsOf,
  type StoredStanding,
  type StoredWatch
} from './stored';

/** A minute is judged so long after its end: requests are stored a moment after they ended, and booked after they rested. */
export const SETTLE_MS = 15_000;
/** Where booking is behind, a minute waits for its requests; so long at the most. */
const PATIENCE_MS = 120_000;
/** Minutes judged at once when some were missed. */
const MOST_AT_ONCE = 240;
/** What was missed longer ago is not judged any more: its minutes are hardly kept. */
export const MOST_LATE = 7 * 1440;
/** A clock that is behind the last minute by more was set back. */
const BACK_TOLERANCE = 2;

/** A watch, and where judging it goes on. */
interface Due {
  watch: StoredWatch;
  standing: StoredStanding;
}

/** What came of judging. */
export interface JudgedNews {
  /** Whether this server is the one that judges. */
  judges: boolean;
  /** Minutes that were judged; 0 where none was due. */
  minutes: number;
  /** Whether there is something to tell or to do. */
  news: boolean;
}

const NOTHING: JudgedNews = { judges: true, minutes: 0, news: false };

/** Judges every watch minute by minute, in the thread of the writer. What was missed while the server was not running is judged late, and said to be. */
export class Judge {
  readonly #database: Database;
  readonly #store: Store;
  readonly #name: string;
  #baselines: Baselines = new Map();
  /** The newest minute that was looked at. */
  #seen = NaN;

  /**
   * @param store stores in turn with everything else that is stored
   * @param name tells this server from others on the same database, and stays the same from one start to the next
   */
  constructor(database: Database, store: Store, name: string) {
    this.#database = database;
    this.#store = store;
    this.#name = name;
  }

  /**
   * Judges the minutes that are over and were not judged yet.
   * @param behindMs for how long something has been waiting to be booked
   */
  async judge(nowMs: number, behindMs = 0): Promise<JudgedNews> {
    const settleMs = behindMs > SETTLE_MS ? PATIENCE_MS : SETTLE_MS;
    const last = Math.floor((nowMs - settleMs) / 60_000) - 1;
    // One that was judged before booking fell behind is not looked at again.
    if (last === this.#seen || last === this.#seen - 1) return NOTHING;
    const watches = await readWatches(this.#database);
    const mine = await holdsLease(this.#database, this.#store, this.#name, nowMs);
    if (!mine) return { ...NOTHING, judges: false };
    const standings = await readStandings(this.#database);
    await this.#endFuture(standings, last);
    const due = watches.map((watch) => ({ watch, standing: begin(watch, standings.get(watch.id), last) }));
    const news = await this.#judgeAll(due, last, nowMs);
    this.#seen = last;
    return news;
  }

  async #judgeAll(due: readonly Due[], last: number, nowMs: number): Promise<JudgedNews> {
    const news = { ...NOTHING };
    for (;;) {
      const behind = due.filter(({ standing }) => standing.judged < last);
      if (behind.length === 0) return news;
      const from = Math.min(...behind.map(({ standing }) => standing.judged)) + 1;
      const to = Math.min(last, from + MOST_AT_ONCE - 1);
      const told = await this.#judgeMinutes(
        behind.filter(({ standing }) => standing.judged < to),
        to,
        last,
        nowMs
      );
      news.minutes = Math.max(news.minutes, to - from + 1);
      news.news ||= told;
    }
  }

  /** The clock was set back: what began in a future that did not come has ended. */
  async #endFuture(standings: ReadonlyMap<string, StoredStanding>, last: number): Promise<void> {
    const ended = [...standings.values()].flatMap(({ judged, firing }) =>
      isAhead(judged, last) && firing ? [firing.id] : []
    );
    if (ended.length === 0) return;
    const which = { where: oneOf('id'), args: [JSON.stringify(ended)] };
    await this.#store(() => Promise.resolve([endFirings(which, 'clock')]));
  }

  /** Judges some watches up to a minute, and stores what came of it. @returns whether anybody is to be told */
  async #judgeMinutes(due: readonly Due[], to: number, last: number, nowMs: number): Promise<boolean> {
    const rows = await JudgedRows.open(this.#database, nowMs, last);
    // Those that were judged up to the same minute are read for together.
    for (const alike of groupBy(due, ({ standing }) => standing.judged).values()) {
      const from = alike[0].standing.judged + 1;
      const known = await readKnown(
        this.#database,
        alike.map(({ watch }) => watch.watch.condition),
        { from, to },
        this.#baselines
      );
      alike.forEach(({ watch, standing }, i) => {
        const { condition } = watch.watch;
        let { firing } = standing;
        for (const step of walk(condition, known[i], standing, from, to)) {
          const state = standing.state;
          Object.assign(standing, step.standing);
          const next = firingAfter(step, firing, condition);
          if (next && !firing) firing = rows.began(watch, { ...next, id: randomUUID() });
          else if (next && firing) firing = rows.went(watch, firing, { ...next, id: firing.id });
          if (standing.state === 'no data' && state !== 'no data' && state !== 'on') rows.silent(watch, step);
        }
        standing.firing = firing;
        standing.judged = to;
        rows.stands(watch, standing);
      });
    }
    await this.#store(async () => rows.statements(await versionsOf(this.#database)));
    if (this.#baselines.size > MOST_BASELINES) this.#baselines = new Map();
    return rows.tells;
  }
}

const isAhead = (judged: number, last: number): boolean => judged > last + BACK_TOLERANCE;

/** Where judging a watch goes on. */
function begin(
  { createdAtUs }: StoredWatch,
  known: StoredStanding | undefined,
  last: number
): StoredStanding {
  const standing = known ?? unjudged(Math.floor(createdAtUs / 60e6) - 1);
  if (isAhead(standing.judged, last)) return unjudged(last - 1);
  return standing.judged < last - MOST_LATE ? { ...standing, judged: last - MOST_LATE } : standing;
}

/** Releases whose last day is remembered. */
const MOST_BASELINES = 500;
