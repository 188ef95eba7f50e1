import type { Sides } from '@tromix/core/sides';
import { CHANGE_MIN_COUNT } from '@tromix/core/stats/rank-test';
import { binAt } from '$lib/roll-up-steps';
import { timeBefore, wholeBins, type Scope, type TimeWindow } from '$lib/scope';
import { select } from '../db/reader';
import { type SeriesPoint } from './rollups';
import { sumOf, type Totals } from './totals';

const MINUTE_US = 60e6;

/**
 * What a change is measured against: `auto` takes the release that came within the window and explains most of the change, else the time before;
 * `release` also takes one from before the window; a release may be named by its number, `r12`.
 */
export const AGAINSTS = ['auto', 'period', 'release'] as const;
export type Against = (typeof AGAINSTS)[number] | `r${number}`;
export const againstFrom = (text: string): Against =>
  /^r\d{1,12}$/.test(text) ? (text as Against) : (AGAINSTS.find((one) => one === text) ?? 'auto');

/** A release that replaced another; epoch milliseconds of its first request. */
export interface Mark {
  id: number;
  release: string;
  service: string;
  at: number;
}

export interface Turn {
  turn: ({ kind: 'release' } & Mark) | { kind: 'period' };
  marks: Mark[];
  windows: Sides<TimeWindow>;
  /** By endpoint. */
  totals: Sides<Map<string, Totals>>;
}

/** What is being compared, and how sums of a part of its time are read. */
interface Compared {
  scope: Scope;
  window: TimeWindow;
  nowMs: number;
  read: (part: TimeWindow) => Promise<Map<string, Totals>>;
}

/** What is held against what. A release splits the window at the bin it came in, which itself belongs to neither side. */
export async function turnOf(
  compared: Compared,
  now: Promise<Map<string, Totals>>,
  series: Promise<Map<number, SeriesPoint[]>>,
  against: Against
): Promise<Turn> {
  const { scope, window, nowMs, read } = compared;
  const all = await releaseMarks(scope, window);
  const within = all.filter(({ at }) => at * 1000 > window.fromUs);
  const marks = within.slice(0, MAX_MARKS);
  const points = (await series).get(0) ?? [];
  const candidates =
    against === 'period'
      ? []
      : against === 'auto'
        ? within.toSorted((a, b) => explainedAt(points, b.at) - explainedAt(points, a.at))
        : against === 'release'
          ? all
          : all.filter(({ id }) => `r${id}` === against);
  const tried: Turn[] = [];
  for (const mark of candidates.slice(0, MAX_TRIED)) {
    const windows = sidesAt(mark, window, nowMs);
    if (windows.after.fromUs >= windows.after.toUs) continue;
    const [before, after] = await Promise.all([read(windows.before), read(windows.after)]);
    const enough = [before, after].every((part) => sumOf(part).count >= CHANGE_MIN_COUNT);
    if (enough) tried.push({ turn: { kind: 'release', ...mark }, marks, windows, totals: { before, after } });
    // Only among several is there anything to choose.
    if (against !== 'auto' && tried.length > 0) break;
  }
  if (tried.length > 0)
    return tried.reduce((best, one) => (explainedBy(one.totals) > explainedBy(best.totals) ? one : best));
  const earlier = timeBefore(window, nowMs);
  const [before, after] = await Promise.all([read(earlier), now]);
  return {
    turn: { kind: 'period' },
    marks,
    windows: { before: earlier, after: window },
    totals: { before, after }
  };
}

/** Releases offered to compare at, and tried for one with enough requests on both sides. */
const MAX_MARKS = 12;
const MAX_TRIED = 5;

/** The time before a release and the time since. One that came before the window is held against as much time before it. */
function sidesAt({ at }: Mark, window: TimeWindow, nowMs: number): Sides<TimeWindow> {
  const binUs = binAt(at, nowMs) * MINUTE_US;
  const bin = Math.floor((at * 1000) / binUs) * binUs;
  const fromUs = bin > window.fromUs ? window.fromUs : bin - (window.toUs - window.fromUs);
  return {
    before: wholeBins({ fromUs, toUs: bin }, nowMs),
    after: { fromUs: Math.max(window.fromUs, bin + binUs), toUs: window.toUs }
  };
}

/**
 * How much of the change of an average request a moment explains: the sum of squares between the time before and the time since, as in an
 * analysis of variance of two groups. Only good for ranking moments of one window.
 */
function explained(
  before: Pick<Totals, 'count' | 'totalNs'>,
  after: Pick<Totals, 'count' | 'totalNs'>
): number {
  if (before.count === 0 || after.count === 0) return 0;
  const apart = after.totalNs / after.count - before.totalNs / before.count;
  return ((before.count * after.count) / (before.count + after.count)) * apart * apart;
}

/** Of all endpoints together: which moments are worth a closer look. */
function explainedAt(points: readonly SeriesPoint[], atMs: number): number {
  const side = (since: boolean): { count: number; totalNs: number } =>
    points
      .filter((point) => point.atMs >= atMs === since)
      .reduce(
        (sum, { totals }) => ({ count: sum.count + totals.count, totalNs: sum.totalNs + totals.totalNs }),
        { count: 0, totalNs: 0 }
      );
  return explained(side(false), side(true));
}

/** Endpoint by endpoint: that others are asked for more often than before is no change of any of them. */
function explainedBy({ before, after }: Sides<Map<string, Totals>>): number {
  let sum = 0;
  for (const [endpoint, was] of before) {
    const is = after.get(endpoint);
    if (is) sum += explained(was, is);
  }
  return sum;
}

/** Releases that replaced another before the end of the window, newest first. */
export async function releaseMarks(scope: Scope, window: TimeWindow): Promise<Mark[]> {
  const rows = await select<{ id: number; at_us: number; name: string; service: string }>(
    `SELECT l.id AS id, l.first_us AS at_us, l.name AS name, s.name AS service FROM releases l JOIN services s ON s.id = l.service_id
      WHERE l.first_us > 0 AND l.first_us < ? AND (? = '' OR s.name = ?)
        AND EXISTS (SELECT 1 FROM releases o WHERE o.service_id = l.service_id AND o.first_us < l.first_us)
      ORDER BY l.first_us DESC LIMIT 100`,
    [window.toUs, scope.service, scope.service]
  );
  return rows.map(({ id, at_us, name, service }) => ({ id, release: name, service, at: at_us / 1000 }));
}

/** For each of some releases the one of its service that came before it, of those that have requests here. */
export async function releasesBeforeThose(rows: ReadonlyMap<string, Totals>): Promise<Map<string, string>> {
  const releases = await select<{ id: number; service: number }>(
    `SELECT id, service_id AS service FROM releases WHERE id IN (SELECT value FROM json_each(?)) ORDER BY service_id, first_us, id`,
    [JSON.stringify([...rows.keys()].map(Number))]
  );
  const previous = new Map<string, string>();
  releases.forEach(({ id, service }, i) => {
    if (i > 0 && releases[i - 1].service === service) previous.set(String(id), String(releases[i - 1].id));
  });
  return previous;
}
