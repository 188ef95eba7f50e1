import { setImmediate as breathe } from 'node:timers/promises';
import type { InStatement } from '@libsql/client';
import { groupBy } from '@tromix/core/group-by';
import { pointsBySeries } from '../../counters/batch';
import {
  BLOCK_BYTES,
  blockBytes,
  bytesOf,
  pointsOfBlock,
  type BlockBytes,
  type SeriesPoints
} from '../../counters/block';
import { CELL_MS, LEVELS } from '../../counters/levels';
import { cut, joined, lengthOf, momentOf } from '../../counters/series-points';
import { oneOf } from '../../db/bulk';
import type { Database } from '../../db/database';

/** Points of one block at the most: who reads a minute need not read them all. */
const MAX_POINTS = 2048;
/** Points taken up at once. */
const AT_ONCE = 600_000;
/** Series whose blocks are written by one transaction. */
const SLICE = 400;

/** Puts the points that wait into the blocks of their series. A killed server finds them waiting still. @returns how many they were */
export async function sealWaiting(database: Database): Promise<number> {
  const { rows } = await database.query(
    `SELECT id, points, data FROM (SELECT id, points, data, sum(points) OVER (ORDER BY id) - points AS before FROM counter_batches)
      WHERE before < ${AT_ONCE} ORDER BY id`
  );
  if (rows.length === 0) return 0;
  const fresh: Fresh[] = [...pointsBySeries(rows.map(([, , data]) => bytesOf(data)))];
  for (let at = 0; at < fresh.length; at += SLICE) {
    await database.write(await sealed(database, fresh.slice(at, at + SLICE)));
    await breathe();
  }
  // Only now: should the server be killed before, they are put in again, and each moment counts once.
  await database.write([
    { sql: 'DELETE FROM counter_batches WHERE id <= ?', args: [Number(rows.at(-1)![0])] }
  ]);
  return rows.reduce((sum, [, points]) => sum + Number(points), 0);
}

/** New points of a series. */
type Fresh = [id: number, points: SeriesPoints];

interface StoredBlock {
  series: number;
  id: number;
  startMs: number;
  endMs: number;
  points: SeriesPoints;
}

/** Statements that put new points into the blocks of some series. */
async function sealed(database: Database, list: readonly Fresh[]): Promise<InStatement[]> {
  const blocks = await blocksFor(database, list);
  const gone: number[] = [];
  const inserts: InStatement[] = [];
  for (const [id, fresh] of list)
    for (const points of byCell(fresh)) {
      const firstMs = momentOf(points, 0);
      const before = (blocks.get(id) ?? []).filter(
        ({ startMs, endMs, points: held }) =>
          cellOf(startMs) === cellOf(firstMs) && (endMs >= firstMs || lengthOf(held) < MAX_POINTS)
      );
      gone.push(...before.map((block) => block.id));
      const all = [...before.map((block) => block.points), points].reduce(joined);
      for (let at = 0; at < lengthOf(all); at += MAX_POINTS)
        inserts.push(insertBlock(id, cut(all, at, at + MAX_POINTS)));
    }
  const last = list.map(([id, points]) => [id, momentOf(points, lengthOf(points) - 1)]);
  return [
    { sql: `DELETE FROM counter_blocks WHERE ${oneOf('id')}`, args: [JSON.stringify(gone)] },
    ...inserts,
    {
      sql: `UPDATE counter_series SET last_ms = max(last_ms, j.value->>1) FROM json_each(?) j WHERE counter_series.id = j.value->>0`,
      args: [JSON.stringify(last)]
    }
  ];
}

const cellOf = (atMs: number): number => Math.floor(atMs / CELL_MS);

/** Points by the cells of the grid. */
function* byCell(points: SeriesPoints): Generator<SeriesPoints> {
  let from = 0;
  for (let i = 1; i <= lengthOf(points); i++)
    if (i === lengthOf(points) || cellOf(momentOf(points, i)) !== cellOf(momentOf(points, from))) {
      yield cut(points, from, i);
      from = i;
    }
}

/** The blocks that new points may go into: those that end after the first of them, and those with room. */
async function blocksFor(database: Database, list: readonly Fresh[]): Promise<Map<number, StoredBlock[]>> {
  const asked = list.map(([id, points]) => [id, momentOf(points, 0), points.kind === 'histograms' ? 1 : 0]);
  const { rows } = await database.query(
    `SELECT b.id, b.series_id, b.start_ms, b.end_ms, j.value->>2, ${BLOCK_BYTES} FROM json_each(?) j
      JOIN counter_blocks b ON b.series_id = j.value->>0 AND b.level = ${LEVELS.points}
        AND b.start_ms >= (j.value->>1) / ${CELL_MS} * ${CELL_MS}
      WHERE b.end_ms >= j.value->>1 OR b.points < ${MAX_POINTS} ORDER BY b.start_ms`,
    [JSON.stringify(asked)]
  );
  const blocks = rows.map(([id, series, startMs, endMs, isHistogram, ...bytes]) => ({
    series: Number(series),
    id: Number(id),
    startMs: Number(startMs),
    endMs: Number(endMs),
    points: pointsOfBlock(bytes as unknown as BlockBytes, isHistogram === 1)
  }));
  return groupBy(blocks, ({ series }) => series);
}

function insertBlock(seriesId: number, points: SeriesPoints): InStatement {
  const length = lengthOf(points);
  const packed = length >= MAX_POINTS;
  return {
    sql: `INSERT OR REPLACE INTO counter_blocks (series_id, level, start_ms, end_ms, points, packed, rolled, data) VALUES (?, ${LEVELS.points}, ?, ?, ?, ?, 0, ?)`,
    args: [
      seriesId,
      momentOf(points, 0),
      momentOf(points, length - 1),
      length,
      packed ? 1 : 0,
      blockBytes(points, packed)
    ]
  };
}
