import { putCell, type Cell } from '@tromix/core/watch/cell';
import { emptySketch, readSketch } from '@tromix/core/stats/sketch';
import { groupBy } from '@tromix/core/group-by';
import { jsonOf } from '../../db/database';
import { isIn, narrowed } from './place-ids';
import { groupIds } from './group-ids';
import type { CellSource } from './source';

type Row = [
  at: number,
  group: number,
  endpoint: number,
  host: number,
  release: number,
  requests: number,
  calls: number,
  failed: number,
  totalNs: number,
  sketch: string
];

/** Calls of a group by bin, from the roll-ups; beside them how many requests made some. */
export const callCells: CellSource<'calls'> = async (watched, reading) => {
  const cells = watched.map(() => new Map<number, Cell>());
  const groups = await groupIds(watched, reading.database);
  const wanted = watched.map(({ place }, i) => ({
    group: groups[i],
    place: reading.ids.of(place),
    to: cells[i]
  }));
  const byGroup = groupBy(
    wanted.filter(({ group }) => group !== undefined),
    ({ group }) => group!
  );
  if (byGroup.size === 0) return cells;
  const { sql, args } = narrowed(
    [...byGroup.values()].flat().map(({ place }) => place),
    { endpoints: 'm.endpoint_id', hosts: 'm.host_id', releases: 'm.release_id' }
  );
  const rows = await jsonOf<Row>(
    reading.database,
    `SELECT json_group_array(json_array(m.at, m.group_id, m.endpoint_id, m.host_id, m.release_id, m.requests, m.calls, m.failed, m.total_ns, m.sketch))
      FROM call_rollups m WHERE m.step = ? AND m.group_id IN (SELECT value FROM json_each(?)) AND m.at BETWEEN ? AND ? AND m.margin = 0${sql}`,
    [reading.step, JSON.stringify([...byGroup.keys()]), reading.from, reading.to, ...args]
  );
  for (const row of rows) {
    let cell: Cell | undefined;
    for (const { place, to } of byGroup.get(row[1]) ?? [])
      if (isIn(place, row[2], row[3], row[4])) putCell(to, row[0], (cell ??= cellOf(row)));
  }
  return cells;
};

const cellOf = ([, , , , , hits, count, failed, sum, sketch]: Row): Cell => ({
  count,
  failed,
  sum,
  hits,
  sketch: readSketch(sketch),
  failedSketch: emptySketch()
});
