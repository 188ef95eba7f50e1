import { createHash } from 'node:crypto';
import { setImmediate as breathe } from 'node:timers/promises';
import type { InStatement } from '@libsql/client';
import { addPoints, emptyBins } from '@tromix/core/counters/bins';
import { encodeTimes, encodeValues } from '@tromix/core/counters/chunk';
import { distributionsOf, merged, type Distribution } from '@tromix/core/counters/histograms';
import type { HistogramPoint } from '@tromix/core/counters/points';
import { isHistogram, type SeriesKind } from '@tromix/core/counters/series';
import { groupBy } from '@tromix/core/group-by';
import {
  BLOCK_BYTES,
  blockBytes,
  bytesOf,
  pack,
  pointsOfBlock,
  type BlockBytes,
  type SeriesPoints
} from '../../counters/block';
import { CELL_MS, GRACE_MS, LEVELS, SUMS, type SumLevel } from '../../counters/levels';
import { cut, joined, lengthOf, momentOf } from '../../counters/series-points';
import { decodeSums, encodeSums, rowsOfBins, rowsOfSums, type SumRow } from '../../counters/sums';
import { oneOf } from '../../db/bulk';
import type { Database } from '../../db/database';

/** Series summed up by one transaction. */
const SLICE = 200;
/** What lies so near to a cell says how much of a stretch over its edge is within it, milliseconds. */
const BESIDE_MS = 300_000;

/**
 * Sums up the cells that are over, by minutes and by hours, and compresses their blocks. A block that late points went into is summed up
 * again: a cell's sums take the place of what it had before.
 */
export async function rollUp(database: Database, nowMs: number, hurry: () => boolean): Promise<void> {
  const overMs = Math.floor((nowMs - GRACE_MS) / CELL_MS) * CELL_MS;
  for (;;) {
    const { rows } = await database.query(
      `SELECT DISTINCT start_ms / ${CELL_MS}, series_id FROM counter_blocks WHERE level = ${LEVELS.points} AND rolled = 0 AND end_ms < ?
        ORDER BY 1 LIMIT ${SLICE}`,
      [overMs]
    );
    if (rows.length === 0) return;
    const cell = Number(rows[0][0]);
    const ids = rows.filter(([of]) => Number(of) === cell).map(([, id]) => Number(id));
    await database.write(await rolled(database, cell * CELL_MS, ids));
    if (hurry()) return;
    await breathe();
  }
}

interface Stored {
  series: number;
  kind: SeriesKind;
  isDelta: boolean;
  isMonotonic: boolean;
  id: number;
  startMs: number;
  sharesTimes: boolean;
  points: SeriesPoints;
}

async function rolled(database: Database, fromMs: number, ids: readonly number[]): Promise<InStatement[]> {
  const toMs = fromMs + CELL_MS;
  const { rows } = await database.query(
    `SELECT s.id, s.kind, s.is_delta, s.is_monotonic, b.id, b.start_ms, b.times_id, ${BLOCK_BYTES} FROM counter_blocks b JOIN counter_series s ON s.id = b.series_id
      WHERE b.level = ${LEVELS.points} AND ${oneOf('b.series_id')} AND b.start_ms < ? AND b.end_ms >= ? AND b.start_ms >= ? ORDER BY b.start_ms`,
    [JSON.stringify(ids), toMs + BESIDE_MS, fromMs - BESIDE_MS, fromMs - CELL_MS]
  );
  const blocks = rows.map(([series, kind, isDelta, isMonotonic, id, startMs, timesId, ...bytes]): Stored => ({
    series: Number(series),
    kind: String(kind) as SeriesKind,
    isDelta: isDelta === 1,
    isMonotonic: isMonotonic === 1,
    id: Number(id),
    startMs: Number(startMs),
    sharesTimes: timesId !== null,
    points: pointsOfBlock(bytes as unknown as BlockBytes, isHistogram(kind as SeriesKind))
  }));
  const statements: InStatement[] = [];
  for (const level of [LEVELS.minutes, LEVELS.hours]) {
    const before = await sumsBefore(database, ids, level, fromMs);
    for (const [series, of] of groupBy(blocks, ({ series }) => series))
      statements.push(sumBlock(series, level, fromMs, of, before.get(series)));
  }
  const inCell = blocks.filter(({ startMs }) => startMs >= fromMs && startMs < toMs);
  return [...statements, ...completed(inCell)];
}

/** Statements that compress blocks, whose times are shared, and mark them as summed up. */
function completed(blocks: readonly Stored[]): InStatement[] {
  const times = new Map<string, InStatement>();
  const updates = blocks.map(({ id, sharesTimes, points }): InStatement => {
    if (sharesTimes) return { sql: 'UPDATE counter_blocks SET rolled = 1 WHERE id = ?', args: [id] };
    if (points.kind === 'histograms')
      return {
        sql: 'UPDATE counter_blocks SET rolled = 1, packed = 1, data = ? WHERE id = ?',
        args: [blockBytes(points, true), id]
      };
    const data = pack(encodeTimes(points.columns));
    const hash = createHash('sha256').update(data).digest('hex');
    times.set(hash, {
      sql: 'INSERT OR IGNORE INTO counter_times (hash, end_ms, data) VALUES (?, ?, ?)',
      args: [hash, points.columns.atMs.at(-1)!, data]
    });
    return {
      sql: `UPDATE counter_blocks SET rolled = 1, packed = 1, times_id = (SELECT id FROM counter_times WHERE hash = ?), data = ? WHERE id = ?`,
      args: [hash, pack(encodeValues(points.columns.values)), id]
    };
  });
  return [...times.values(), ...updates];
}

/** The blocks of sums that the cell lies in, by series. */
async function sumsBefore(
  database: Database,
  ids: readonly number[],
  level: SumLevel,
  fromMs: number
): Promise<Map<number, Uint8Array>> {
  const { rows } = await database.query(
    `SELECT series_id, data FROM counter_blocks WHERE level = ${level} AND start_ms = ? AND ${oneOf('series_id')}`,
    [sumBlockStart(level, fromMs), JSON.stringify(ids)]
  );
  return new Map(rows.map(([id, data]) => [Number(id), bytesOf(data)]));
}

const sumBlockStart = (level: SumLevel, atMs: number): number =>
  Math.floor(atMs / SUMS[level].blockMs) * SUMS[level].blockMs;

/** The block of sums of a series with those of a cell in it. */
function sumBlock(
  series: number,
  level: SumLevel,
  fromMs: number,
  blocks: readonly Stored[],
  before: Uint8Array | undefined
): InStatement {
  const { stepMs, blockMs } = SUMS[level];
  const startMs = sumBlockStart(level, fromMs);
  const [first, end] = [fromMs / stepMs, (fromMs + CELL_MS) / stepMs];
  const points = near(
    blocks.map(({ points: of }) => of).reduce(joined),
    fromMs - BESIDE_MS,
    fromMs + CELL_MS + BESIDE_MS
  );
  const outside = (bin: number): boolean => bin < first || bin >= end;
  let data: Uint8Array;
  let bins: number;
  if (points.kind === 'histograms') {
    const known = before
      ? (pointsOfBlock([1, before, null], true) as { points: HistogramPoint[] }).points
      : [];
    const rows = [
      ...known.filter(({ atMs }) => outside(atMs / stepMs)),
      ...binnedHistograms(points.points, blocks[0].isDelta, stepMs, first, end)
    ].sort((a, b) => a.atMs - b.atMs);
    data = blockBytes({ kind: 'histograms', points: rows }, true);
    bins = rows.length;
  } else {
    const inCell = emptyBins(fromMs, fromMs + CELL_MS, stepMs);
    addPoints(inCell, points.columns, blocks[0]);
    const rows: SumRow[] = [
      ...(before ? rowsOfSums(decodeSums(before)) : []).filter(({ bin }) => outside(bin)),
      ...rowsOfBins(inCell)
    ].sort((a, b) => a.bin - b.bin);
    data = encodeSums(rows);
    bins = rows.length;
  }
  return {
    sql: `INSERT OR REPLACE INTO counter_blocks (series_id, level, start_ms, end_ms, points, packed, rolled, data) VALUES (?, ?, ?, ?, ?, 1, 1, ?)`,
    args: [series, level, startMs, startMs + blockMs - stepMs, bins, data]
  };
}

/** The points of a time. */
function near(points: SeriesPoints, fromMs: number, toMs: number): SeriesPoints {
  let from = 0;
  let to = lengthOf(points);
  while (from < to && momentOf(points, from) < fromMs) from++;
  while (to > from && momentOf(points, to - 1) >= toMs) to--;
  return cut(points, from, to);
}

/** What came in each bin, as points that tell it by themselves: where bounds changed, more than one a bin. A stretch counts in the bin it ends in. */
function binnedHistograms(
  points: readonly HistogramPoint[],
  isDelta: boolean,
  stepMs: number,
  first: number,
  end: number
): HistogramPoint[] {
  const binned: { bin: number; of: Distribution }[] = [];
  for (const came of distributionsOf(points, isDelta)) {
    const bin = Math.floor((came.toMs - 1) / stepMs);
    if (bin < first || bin >= end) continue;
    const last = binned.at(-1);
    const both = last?.bin === bin ? merged(last.of, came) : null;
    if (both) last!.of = both;
    else binned.push({ bin, of: came });
  }
  return binned.map(({ bin, of: { count, sum, layout, positive, negative, zero } }) => ({
    atMs: bin * stepMs,
    startMs: 0,
    count,
    sum,
    min: NaN,
    max: NaN,
    layout,
    positive,
    negative,
    zero
  }));
}
