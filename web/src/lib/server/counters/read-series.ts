import { addPoints, emptyBins, type Bins } from '@tromix/core/counters/bins';
import { addAmounts, distributionsOf, type TimedDistribution } from '@tromix/core/counters/histograms';
import { isHistogram, type SeriesKind } from '@tromix/core/counters/series';
import type { Attributes } from '@tromix/core/trace/span';
import { attributesFrom } from '$lib/stored-spans';
import { pointsBySeries } from './batch';
import { BLOCK_BYTES, bytesOf, pointsOfBlock, type BlockBytes, type SeriesPoints } from './block';
import { CELL_MS, GRACE_MS, LEVELS, SUMS, type SumLevel } from './levels';
import { joined, momentOf } from './series-points';
import { addSums, decodeSums } from './sums';
import { oneOf } from '../db/bulk';
import { jsonOf, type Database } from '../db/database';

/** Who sends a series. */
export interface CounterSource {
  id: number;
  service: string;
  host: string;
  release: string;
  pid: number;
  attributes: Attributes;
}

/** A stored series. */
export interface StoredSeries {
  id: number;
  name: string;
  unit: string;
  kind: SeriesKind;
  isDelta: boolean;
  isMonotonic: boolean;
  attributes: Attributes;
  /** Epoch milliseconds of its newest point. */
  lastMs: number;
  source: CounterSource;
}

/** Which series are asked for. */
export interface SeriesFilter {
  names: readonly string[];
  /** Of these hosts; of any where none is named. */
  hosts?: readonly string[];
  /** Only those with a point since then, epoch milliseconds. */
  sinceMs: number;
}

/** Series that one view reads at the most. */
const MAX_READ = 5000;

type SeriesRow = [
  id: number,
  name: string,
  unit: string,
  kind: SeriesKind,
  isDelta: number,
  isMonotonic: number,
  attributes: string,
  lastMs: number,
  sourceId: number,
  service: string,
  host: string,
  release: string,
  pid: number,
  ofSource: string
];

/** The series of some names, by who sends them. */
export async function seriesOf(
  database: Database,
  { names, hosts = [], sinceMs }: SeriesFilter
): Promise<StoredSeries[]> {
  const rows = await jsonOf<SeriesRow>(
    database,
    `SELECT json_group_array(json_array(s.id, s.name, s.unit, s.kind, s.is_delta, s.is_monotonic, s.attributes, s.last_ms,
        o.id, o.service, o.host, o.release, o.pid, o.attributes)) FROM
      (SELECT s.* FROM counter_series s JOIN counter_sources o ON o.id = s.source_id
        WHERE ${oneOf('s.name')} AND s.last_ms >= ?${hosts.length > 0 ? ` AND ${oneOf('o.host')}` : ''}
        ORDER BY s.id LIMIT ${MAX_READ}) s JOIN counter_sources o ON o.id = s.source_id`,
    [JSON.stringify(names), sinceMs, ...(hosts.length > 0 ? [JSON.stringify(hosts)] : [])]
  );
  const sources = new Map<number, CounterSource>();
  return rows.map(
    ([
      id,
      name,
      unit,
      kind,
      isDelta,
      isMonotonic,
      attributes,
      lastMs,
      sourceId,
      ofService,
      ofHost,
      release,
      pid,
      told
    ]) => {
      let source = sources.get(sourceId);
      if (!source) {
        source = {
          id: sourceId,
          service: ofService,
          host: ofHost,
          release,
          pid,
          attributes: attributesFrom(told)
        };
        sources.set(sourceId, source);
      }
      return {
        id,
        name,
        unit,
        kind,
        isDelta: isDelta === 1,
        isMonotonic: isMonotonic === 1,
        attributes: attributesFrom(attributes),
        lastMs,
        source
      };
    }
  );
}

/** A stretch of time, epoch milliseconds. */
export interface MsWindow {
  fromMs: number;
  toMs: number;
}

/** What is stored of a series over a time, at the level that fits. */
interface Found {
  /** Blocks of sums, up to where points are read. */
  sums: BlockBytes[];
  points: SeriesPoints | null;
  /** Sums count for what lies before, points from there on; epoch milliseconds. */
  pointsFromMs: number;
}

/** Numbers of series over a time, in bins. @param stepMs length of a bin; sums of minutes or hours are read where they suffice */
export async function binsOf(
  database: Database,
  series: readonly StoredSeries[],
  { fromMs, toMs }: MsWindow,
  stepMs: number
): Promise<Map<number, Bins>> {
  const numbers = series.filter(({ kind }) => !isHistogram(kind));
  const level = levelFor(stepMs);
  const found = await stored(database, numbers, { fromMs, toMs }, level);
  return new Map(
    numbers.map((one) => {
      const bins = emptyBins(fromMs, toMs, stepMs);
      const { sums, points, pointsFromMs } = found.get(one.id)!;
      if (level !== LEVELS.points)
        for (const [, data] of sums)
          addSums(bins, decodeSums(bytesOf(data)), SUMS[level].stepMs, pointsFromMs);
      if (points?.kind === 'numbers' && pointsFromMs < toMs) {
        const exact = emptyBins(Math.max(fromMs, pointsFromMs), toMs, stepMs);
        addPoints(exact, points.columns, one);
        addBins(bins, exact);
      }
      return [one.id, bins];
    })
  );
}

function addBins(target: Bins, { fromMs, stepMs, weight, sum, max }: Bins): void {
  const bin = weight.map((_, i) => fromMs / stepMs + i);
  addSums(target, { bin, weight, sum, max }, stepMs);
}

/** As `binsOf`, with histograms too: as what their values add up to a second. */
export async function ratesIn(
  database: Database,
  series: readonly StoredSeries[],
  window: MsWindow,
  stepMs: number
): Promise<Map<number, Bins>> {
  const [bins, parts] = await Promise.all([
    binsOf(database, series, window, stepMs),
    distributionsIn(database, series, window, stepMs)
  ]);
  for (const [id, list] of parts) {
    const rates = emptyBins(window.fromMs, window.toMs, stepMs);
    addAmounts(rates, list);
    bins.set(id, rates);
  }
  return bins;
}

/** What came to histograms over a time. */
export async function distributionsIn(
  database: Database,
  series: readonly StoredSeries[],
  { fromMs, toMs }: MsWindow,
  stepMs: number
): Promise<Map<number, TimedDistribution[]>> {
  const histograms = series.filter(({ kind }) => isHistogram(kind));
  const level = levelFor(stepMs);
  const found = await stored(database, histograms, { fromMs, toMs }, level);
  return new Map(
    histograms.map(({ id, isDelta }) => {
      const { sums, points, pointsFromMs } = found.get(id)!;
      const list: TimedDistribution[] = [];
      if (level !== LEVELS.points)
        for (const bytes of sums) {
          const of = pointsOfBlock(bytes, true);
          if (of.kind === 'histograms')
            for (const { atMs, startMs: _, ...rest } of of.points)
              if (atMs < pointsFromMs) list.push({ ...rest, fromMs: atMs, toMs: atMs + SUMS[level].stepMs });
        }
      if (points?.kind === 'histograms')
        for (const one of distributionsOf(points.points, isDelta))
          if (one.toMs > pointsFromMs) list.push(one);
      return [id, list.filter((one) => one.toMs > fromMs && one.fromMs < toMs)];
    })
  );
}

const levelFor = (stepMs: number): 0 | SumLevel =>
  stepMs >= SUMS[2].stepMs ? LEVELS.hours : stepMs >= SUMS[1].stepMs ? LEVELS.minutes : LEVELS.points;

/** What lies so near to a window says what came over its edges, milliseconds. */
const BESIDE_MS = 300_000;

const OF_SERIES = 'series_id IN (SELECT value FROM json_each(?1))';

/** The blocks of some series that a window needs, and the points that wait to be put into blocks. */
async function stored(
  database: Database,
  series: readonly StoredSeries[],
  { fromMs, toMs }: MsWindow,
  level: 0 | SumLevel
): Promise<Map<number, Found>> {
  const found = new Map<number, Found>(
    series.map(({ id }) => [
      id,
      { sums: [], points: null, pointsFromMs: level === LEVELS.points ? -Infinity : Infinity }
    ])
  );
  if (series.length === 0) return found;
  const kinds = new Map(series.map(({ id, kind }) => [id, kind]));
  const ids = JSON.stringify([...found.keys()]);
  // Those that wait are read first: what is put into a block meanwhile is then found twice, and counts once.
  const waiting = await database.query('SELECT data FROM counter_batches ORDER BY id');
  const { rows } = await database.query(
    level === LEVELS.points
      ? `SELECT series_id, level, start_ms, rolled, ${BLOCK_BYTES} FROM counter_blocks b
          WHERE ${OF_SERIES} AND level = 0 AND start_ms < ?2 AND start_ms >= ?3 - ${CELL_MS} AND end_ms >= ?3 ORDER BY start_ms`
      : `SELECT series_id, level, start_ms, rolled, ${BLOCK_BYTES} FROM counter_blocks b
          WHERE ${OF_SERIES} AND level = ${level} AND start_ms < ?2 AND end_ms >= ?3 - ${SUMS[level].stepMs}
        UNION ALL SELECT series_id, level, start_ms, rolled, ${BLOCK_BYTES} FROM counter_blocks b
          WHERE ${OF_SERIES} AND level = 0 AND start_ms < ?2 AND end_ms >= ?3
            AND end_ms >= (SELECT min(o.start_ms) / ${CELL_MS} * ${CELL_MS} - ${BESIDE_MS} FROM counter_blocks o
              WHERE o.series_id = b.series_id AND o.level = 0 AND o.rolled = 0) ORDER BY start_ms`,
    [ids, toMs + BESIDE_MS, fromMs - BESIDE_MS]
  );
  for (const [id, of, startMs, rolled, ...bytes] of rows) {
    const one = found.get(Number(id))!;
    const block = bytes as unknown as BlockBytes;
    if (of !== LEVELS.points) {
      one.sums.push(block);
      continue;
    }
    const points = pointsOfBlock(block, isHistogram(kinds.get(Number(id))!));
    one.points = one.points ? joined(one.points, points) : points;
    if (level !== LEVELS.points && rolled !== 1)
      one.pointsFromMs = Math.min(one.pointsFromMs, cellOf(Number(startMs)));
  }
  const batches = waiting.rows.map(([data]) => bytesOf(data));
  addWaiting(found, batches, level !== LEVELS.points);
  return found;
}

/** Points that wait count from the first cell that is not summed up yet: late ones are drawn as soon as they are in a block. */
function addWaiting(found: Map<number, Found>, batches: readonly Uint8Array[], hasSums: boolean): void {
  const openMs = cellOf(Date.now() - GRACE_MS);
  for (const [id, points] of pointsBySeries(batches, new Set(found.keys()))) {
    const one = found.get(id)!;
    if (hasSums) one.pointsFromMs = Math.min(one.pointsFromMs, Math.max(openMs, cellOf(momentOf(points, 0))));
    one.points = one.points ? joined(one.points, points) : points;
  }
}

/** Start of the cell of the grid that a moment lies in. */
const cellOf = (atMs: number): number => Math.floor(atMs / CELL_MS) * CELL_MS;
