import type { WatchState } from '@tromix/core/watch/state';
import type { NoticeKind } from '@tromix/core/watch/notice';
import type { Severity, Watch } from '@tromix/core/watch/watch';
import { reader, select } from '../db/reader';
import { readStandings, readWatches, watchFrom, type StoredWatch } from './stored';

/** A time for which a watch was on, as it is listed. */
export interface ListedFiring {
  id: string;
  watchId: string;
  onMinute: number;
  offMinute: number | null;
  ended: '' | 'off' | 'no data' | 'changed' | 'clock';
  value: number | null;
  before: number | null;
  worst: number | null;
  lateMinutes: number;
  silenced: number;
  caseId: string;
  seenBy: string;
  seenAtUs: number | null;
  /** What was to be done: how far it is, and what it came to; '' for nothing. */
  taskState: string;
  taskMessage: string;
}

const FIRING = `f.id, f.watch_id AS watchId, f.on_minute AS onMinute, f.off_minute AS offMinute, f.ended, f.value, f.before, f.worst,
  f.late_minutes AS lateMinutes, f.silenced, f.case_id AS caseId, f.seen_by AS seenBy, f.seen_at_us AS seenAtUs,
  coalesce((SELECT t.state FROM watch_tasks t WHERE t.firing_id = f.id), '') AS taskState,
  coalesce((SELECT t.message FROM watch_tasks t WHERE t.firing_id = f.id), '') AS taskMessage`;

/** Times on that are listed. */
const MOST_FIRINGS = 500;

/** The newest times on, of one watch or of all. */
export const firingsOf = (watchId = ''): Promise<ListedFiring[]> =>
  select<ListedFiring>(
    `SELECT ${FIRING} FROM watch_firings f WHERE ?1 = '' OR f.watch_id = ?1 ORDER BY f.on_minute DESC, f.id LIMIT ${MOST_FIRINGS}`,
    [watchId]
  );

/** Times on that touch a stretch of time, whatever watch they are of; epoch minutes. */
export const firingsIn = (from: number, to: number): Promise<ListedFiring[]> =>
  select<ListedFiring>(
    `SELECT ${FIRING} FROM watch_firings f WHERE f.on_minute <= ? AND coalesce(f.off_minute, 1e12) >= ? ORDER BY f.on_minute DESC LIMIT ${MOST_FIRINGS}`,
    [to, from]
  );

export const firingOf = async (id: string): Promise<ListedFiring | undefined> =>
  (await select<ListedFiring>(`SELECT ${FIRING} FROM watch_firings f WHERE f.id = ?`, [id]))[0];

/** A watch, and how it stands. */
export interface ListedWatch extends StoredWatch {
  state: WatchState;
  /** Minute since which it stands so. */
  since: number;
  value: number | null;
  before: number | null;
  /** The last minute that was judged; 0 for none. */
  judged: number;
  /** How often it was on in the last seven days. */
  timesOn: number;
  /** Times on that nobody looked at. */
  unseen: number;
}

const WEEK_MINUTES = 7 * 1440;

export async function watchList(nowMs: number): Promise<ListedWatch[]> {
  const database = await reader();
  const [watches, standings, counts] = await Promise.all([
    readWatches(database),
    readStandings(database),
    select<{ watchId: string; timesOn: number; unseen: number }>(
      `SELECT watch_id AS watchId, sum(on_minute >= ?) AS timesOn, sum(seen_at_us IS NULL) AS unseen FROM watch_firings GROUP BY watch_id`,
      [Math.floor(nowMs / 60_000) - WEEK_MINUTES]
    )
  ]);
  const countOf = new Map(counts.map((one) => [one.watchId, one]));
  return watches.map((watch) => {
    const {
      state = 'new',
      since = 0,
      value = null,
      before = null,
      judged = 0
    } = standings.get(watch.id) ?? {};
    const { timesOn = 0, unseen = 0 } = countOf.get(watch.id) ?? {};
    return { ...watch, state, since, value, before, judged, timesOn, unseen };
  });
}

/** Times on that nobody looked at yet: the number beside the view. */
export async function unseenFirings(): Promise<number> {
  const [{ count }] = await select<{ count: number }>(
    'SELECT count(*) AS count FROM watch_firings WHERE seen_at_us IS NULL AND silenced = 0'
  );
  return count;
}

/** Watches of a newer version, which this one cannot read. */
export async function unreadableWatches(): Promise<number> {
  const rows = await select<{ body: string }>('SELECT body FROM watches');
  return rows.filter(({ body }) => watchFrom(body) === null).length;
}

/** Whether a watch is on. */
export const isOn = async (id: string): Promise<boolean> =>
  (await select<{ state: WatchState }>('SELECT state FROM watch_standings WHERE watch_id = ?', [id]))[0]
    ?.state === 'on';

/** A watch by its id; undefined where there is none. */
export async function watchOf(id: string): Promise<StoredWatch | undefined> {
  const [row] = await select<{ body: string; createdAtUs: number; version: number; silentUntilUs: number }>(
    'SELECT body, created_at_us AS createdAtUs, version, silent_until_us AS silentUntilUs FROM watches WHERE id = ?',
    [id]
  );
  const watch = row && watchFrom(row.body);
  return watch
    ? { id, watch, createdAtUs: row.createdAtUs, version: row.version, silentUntilUs: row.silentUntilUs }
    : undefined;
}

/** Where notices go. The key is shown once, to who makes it. */
export interface ListedHook {
  id: string;
  name: string;
  url: string;
  least: Severity;
  createdAtUs: number;
  sent: number;
  failed: number;
  waiting: number;
}

export const hookList = (): Promise<ListedHook[]> =>
  select<ListedHook>(
    `SELECT h.id, h.name, h.url, h.least, h.created_at_us AS createdAtUs,
      (SELECT count(*) FROM deliveries d WHERE d.hook_id = h.id AND d.state = 'sent') AS sent,
      (SELECT count(*) FROM deliveries d WHERE d.hook_id = h.id AND d.state = 'failed') AS failed,
      (SELECT count(*) FROM deliveries d WHERE d.hook_id = h.id AND d.state = 'waiting') AS waiting
      FROM hooks h ORDER BY h.created_at_us`
  );

/** Something that was sent, or is to be. */
export interface ListedDelivery {
  id: string;
  hookId: string;
  firingId: string;
  kind: NoticeKind;
  body: string;
  state: 'waiting' | 'sent' | 'failed';
  tries: number;
  nextAtUs: number;
  status: number;
  message: string;
  createdAtUs: number;
}

const DELIVERY = `id, hook_id AS hookId, firing_id AS firingId, kind, body, state, tries, next_at_us AS nextAtUs, status, message, created_at_us AS createdAtUs`;
const MOST_DELIVERIES = 200;

export const deliveryList = (): Promise<ListedDelivery[]> =>
  select<ListedDelivery>(
    `SELECT ${DELIVERY} FROM deliveries ORDER BY created_at_us DESC LIMIT ${MOST_DELIVERIES}`
  );

/** What is due to be sent, the longest waiting first; of each hook so many. */
export const dueDeliveries = (
  nowUs: number,
  most: number
): Promise<(ListedDelivery & { url: string; secret: string })[]> =>
  select(
    `SELECT * FROM (
      SELECT ${DELIVERY.replaceAll(/(^|, )(\w+)/g, '$1d.$2')}, h.url, h.secret, row_number() OVER (PARTITION BY d.hook_id ORDER BY d.next_at_us) AS place
        FROM deliveries d JOIN hooks h ON h.id = d.hook_id WHERE d.state = 'waiting' AND d.next_at_us <= ?)
      WHERE place <= ${most}`,
    [nowUs]
  );

/** What is to be done since watches came on. */
export interface WatchTask {
  id: string;
  watchId: string;
  firingId: string;
  actions: Watch['actions'];
}

export async function tasksIn(state: 'waiting' | 'doing'): Promise<WatchTask[]> {
  const rows = await select<{ id: string; watchId: string; firingId: string; actions: string }>(
    'SELECT id, watch_id AS watchId, firing_id AS firingId, actions FROM watch_tasks WHERE state = ? ORDER BY created_at_us LIMIT 50',
    [state]
  );
  return rows.map((row) => ({ ...row, actions: JSON.parse(row.actions) as Watch['actions'] }));
}
