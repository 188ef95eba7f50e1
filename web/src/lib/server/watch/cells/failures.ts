import { emptyCell, putCell, type Cell } from '@tromix/core/watch/cell';
import type { FailureMark } from '@tromix/core/failures/mark-state';
import { jsonOf } from '../../db/database';
import { isIn } from './place-ids';
import { readMerges, type Merges } from '../../db/merges';
import type { CellSource, Reading } from './source';

type Row = [at: number, group: number, endpoint: number, host: number, release: number, times: number];

const DAY = 1440;

/** How often failures happened, or how many of them were new or came back, by bin. */
export const failureCells: CellSource<'failures'> = async (watched, reading) => {
  const { database, step, from, to, ids } = reading;
  const cells = watched.map(() => new Map<number, Cell>());
  const rows = await jsonOf<Row>(
    database,
    `SELECT json_group_array(json_array(at, group_id, endpoint_id, host_id, release_id, times)) FROM failure_rollups
      WHERE step = ? AND margin = 0 AND at BETWEEN ? AND ?`,
    [step, from, to]
  );
  if (rows.length === 0) return cells;
  const merges = await readMerges(database);
  const groups = [...new Set(rows.map(([, group]) => merges.of(group)))];
  const [keys, news] = await Promise.all([keysOf(groups, reading), newsOf(groups, merges, reading)]);
  watched.forEach(({ place, failure, figure }, i) => {
    const placed = ids.of(place);
    // A failure need not happen in a request: its service is that of its release.
    const services = place.service === '' ? null : new Set(ids.releasesOf(place.service).map(({ id }) => id));
    const seen = new Set<string>();
    for (const [at, member, endpoint, host, release, times] of rows) {
      const group = merges.of(member);
      if (failure !== '' && keys.get(group) !== failure) continue;
      if (services && !services.has(release)) continue;
      if (!isIn(place.endpoint === '' ? { ...placed, endpoints: null } : placed, endpoint, host, release))
        continue;
      if (figure === 'rate') putCell(cells[i], at, { ...emptyCell(), hits: times });
      else if (!seen.has(`${group} ${at}`)) {
        seen.add(`${group} ${at}`);
        const hits = news.get(group)?.filter((minute) => Math.floor(minute / step) === at).length ?? 0;
        if (hits > 0) putCell(cells[i], at, { ...emptyCell(), hits });
      }
    }
  });
  return cells;
};

async function keysOf(groups: readonly number[], { database }: Reading): Promise<Map<number, string>> {
  const rows = await jsonOf<[number, string]>(
    database,
    'SELECT json_group_array(json_array(id, "key")) FROM failure_groups WHERE id IN (SELECT value FROM json_each(?))',
    [JSON.stringify(groups)]
  );
  return new Map(rows);
}

/** The minutes in which groups were seen for the first time ever, or came back after somebody marked them. */
async function newsOf(
  groups: readonly number[],
  merges: Merges,
  reading: Reading
): Promise<Map<number, number[]>> {
  const members = groups.flatMap(merges.membersOf);
  const { database } = reading;
  const args = [JSON.stringify(members)];
  const inList = 'group_id IN (SELECT value FROM json_each(?))';
  const [firstDays, firstMinutes, marks] = await Promise.all([
    jsonOf<[number, number]>(
      database,
      `SELECT json_group_array(json_array(g, d)) FROM (SELECT group_id AS g, min(at) AS d FROM failure_rollups WHERE step = 1440 AND margin = 1 AND ${inList} GROUP BY g)`,
      args
    ),
    jsonOf<[number, number]>(
      database,
      `SELECT json_group_array(json_array(g, m)) FROM (SELECT group_id AS g, min(at) AS m FROM failure_rollups WHERE step = 1 AND margin = 1 AND ${inList} GROUP BY g)`,
      args
    ),
    jsonOf<[number, FailureMark['kind'], string, number, number, number]>(
      database,
      `SELECT json_group_array(json_array(group_id, kind, "release", more_times, times_then, at_us)) FROM failure_marks WHERE ${inList}`,
      args
    )
  ]);
  const earliest = (pairs: [number, number][]): Map<number, number> => {
    const of = new Map<number, number>();
    for (const [member, at] of pairs) {
      const group = merges.of(member);
      of.set(group, Math.min(of.get(group) ?? Infinity, at));
    }
    return of;
  };
  const [days, minutes] = [earliest(firstDays), earliest(firstMinutes)];
  const news = new Map<number, number[]>();
  for (const group of groups) {
    const minute = minutes.get(group);
    // Minutes are kept a week: one whose first day is another is older than its first minute tells.
    const isFirst = minute !== undefined && days.get(group) === Math.floor(minute / DAY);
    news.set(group, isFirst ? [minute] : []);
  }
  for (const [member, kind, release, moreTimes, timesThen, atUs] of marks) {
    const group = merges.of(member);
    const mark: FailureMark = { kind, release, moreTimes, timesThen, atUs };
    const back = await returnOf(merges.membersOf(group), mark, reading);
    if (back !== null) news.get(group)?.push(back);
  }
  return news;
}

/** The minute in which a marked group came back, by the rules of `failureState`; null where it has not. */
async function returnOf(
  members: readonly number[],
  mark: FailureMark,
  { database, step, to }: Reading
): Promise<number | null> {
  const since = Math.floor(mark.atUs / 60e6);
  const rows = await jsonOf<[at: number, times: number, release: string, firstUs: number]>(
    database,
    `SELECT json_group_array(json_array(at, times, name, first_us)) FROM (
      SELECT f.at AS at, f.times AS times, l.name AS name, l.first_us AS first_us FROM failure_rollups f JOIN releases l ON l.id = f.release_id
        WHERE f.step = 1 AND f.margin = 0 AND f.group_id IN (SELECT value FROM json_each(?)) AND f.at BETWEEN ? AND ? ORDER BY f.at)`,
    [JSON.stringify(members), since + 1, (to + 1) * step]
  );
  const fixing = rows.find(([, , release]) => release === mark.release);
  let times = 0;
  for (const [at, more, release, firstUs] of rows) {
    times += more;
    const isLater = firstUs > mark.atUs || (fixing !== undefined && firstUs >= fixing[3]);
    if (
      mark.kind === 'fixed' && mark.release !== '' ? release === mark.release || isLater : firstUs > mark.atUs
    )
      return at;
    if (mark.kind === 'ignored' && mark.moreTimes > 0 && times >= mark.moreTimes) return at;
  }
  return null;
}
