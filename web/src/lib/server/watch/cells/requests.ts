import { emptyCell, putCell, type Cell } from '@tromix/core/watch/cell';
import { readSketch } from '@tromix/core/stats/sketch';
import type { WatchedOf } from '@tromix/core/watch/watched';
import { jsonOf } from '../../db/database';
import { ByEndpoint, narrowed, type PlacedIn } from './place-ids';
import type { CellSource, Reading } from './source';

type Row = [
  at: number,
  endpoint: number,
  host: number,
  release: number,
  count: number,
  failed: number,
  totalNs: number,
  calls: number,
  sketch: string,
  failedSketch: string
];

/** The margin of the roll-ups whose rows are fewest and still tell a place: 2 everything, 1 by endpoint, 0 by all. */
function marginOf({ endpoints, hosts, notHosts, releases }: PlacedIn): 0 | 1 | 2 {
  if (hosts || notHosts || releases) return 0;
  return endpoints ? 1 : 2;
}

/** Requests by bin, from the roll-ups. */
export const requestCells: CellSource<'requests'> = async (watched, reading) => {
  const cells = watched.map(() => new Map<number, Cell>());
  const placed = watched.map(({ place }) => reading.ids.of(place));
  for (const margin of [0, 1, 2] as const) {
    const here = placed.flatMap((place, i) => (marginOf(place) === margin ? [{ place, to: cells[i] }] : []));
    if (here.length > 0) await addRows(margin, here, reading);
  }
  return cells;
};

async function addRows(
  margin: 0 | 1 | 2,
  here: readonly { place: PlacedIn; to: Map<number, Cell> }[],
  { database, step, from, to }: Reading
): Promise<void> {
  const { sql, args } = narrowed(
    here.map(({ place }) => place),
    { endpoints: 'm.endpoint_id', hosts: 'm.host_id', releases: 'm.release_id' }
  );
  const rows = await jsonOf<Row>(
    database,
    `SELECT json_group_array(json_array(m.at, m.endpoint_id, m.host_id, m.release_id, m.count, m.failed, m.total_ns, m.call_count, m.sketch, m.failed_sketch))
      FROM rollups m WHERE m.step = ? AND m.margin = ? AND m.at BETWEEN ? AND ?${sql}`,
    [step, margin, from, to, ...args]
  );
  const targets = new ByEndpoint<Map<number, Cell>>();
  for (const one of here) targets.add(one.place, one.to);
  for (const row of rows) {
    let cell: Cell | undefined;
    for (const target of targets.at(row[1], row[2], row[3])) putCell(target, row[0], (cell ??= cellOf(row)));
  }
}

const cellOf = ([, , , , count, failed, sum, hits, sketch, failedSketch]: Row): Cell => ({
  count,
  failed,
  sum,
  hits,
  sketch: readSketch(sketch),
  failedSketch: readSketch(failedSketch)
});

/** How many requests came, for what is held against their number. */
export async function countCells(
  places: readonly WatchedOf<'requests'>['place'][],
  reading: Reading
): Promise<Map<number, Cell>[]> {
  const cells = await requestCells(
    places.map((place) => ({ of: 'requests', figure: 'rate', place, attributes: [], apdexMs: 500 })),
    reading
  );
  return cells.map((of) => new Map([...of].map(([bin, { count }]) => [bin, { ...emptyCell(), count }])));
}
