import { emptyCell, sumOver, type Cell } from '@tromix/core/watch/cell';
import { figureOf, valueIn } from '@tromix/core/watch/figures';
import type { Watched } from '@tromix/core/watch/watched';
import { ROLLUP_DAYS } from '$lib/roll-up-steps';
import { reader } from '../db/reader';
import { readPlaceIds } from './cells/place-ids';
import { readCells } from './cells/read-cells';
import type { Reading } from './cells/source';

const MINUTE_MS = 60_000;
/** Bins that a chart draws at the most. */
const MOST_BINS = 360;
/** Lengths of points of a line, minutes, of which one fits a window. Shorter ones than are read add up. */
const STEPS = [1, 2, 5, 10, 15, 30, 60, 120, 360, 720, 1440] as const;

/** A figure over time, in bins of equal length. */
export interface FigureSeries {
  values: (number | null)[];
  /** Over the whole window; null where too little tells of it. */
  whole: number | null;
  /** How many of what is counted there are in the window. */
  count: number;
}

export interface FiguresOverTime {
  /** Start of the first bin, epoch milliseconds, and the length of one. */
  fromMs: number;
  stepMs: number;
  series: FigureSeries[];
}

/** The step that is read for a window: the finest that every table of sums still has of it. */
function readStep(fromMs: number, step: number, nowMs: number): Reading['step'] {
  const ageDays = (nowMs - fromMs) / 86_400_000;
  if (step >= 1440 || ageDays > ROLLUP_DAYS[60]) return 1440;
  return step >= 60 || ageDays > ROLLUP_DAYS[1] ? 60 : 1;
}

/** Figures over a window. Bins that are not over yet count as much of their time as has passed. */
export async function figuresOverTime(
  watched: readonly Watched[],
  window: { fromMs: number; toMs: number },
  nowMs: number
): Promise<FiguresOverTime> {
  const minutes = (window.toMs - window.fromMs) / MINUTE_MS;
  const wanted = STEPS.find((step) => minutes / step <= MOST_BINS) ?? 1440;
  const read = readStep(window.fromMs, wanted, nowMs);
  const step = Math.max(wanted, read);
  const first = Math.floor(window.fromMs / MINUTE_MS / step);
  const last = Math.max(first, Math.ceil(window.toMs / MINUTE_MS / step) - 1);
  const database = await reader();
  const ids = await readPlaceIds(database);
  const of = (some: readonly Watched[], by: Reading['step']) =>
    readCells(some, {
      database,
      ids,
      step: by,
      from: (first * step) / by,
      to: ((last + 1) * step) / by - 1
    });
  const cells = await of(watched, read);
  const nowMinute = nowMs / MINUTE_MS;
  return {
    fromMs: first * step * MINUTE_MS,
    stepMs: step * MINUTE_MS,
    series: watched.map((one, i) => seriesFrom(one, cells[i], { first, last, step, read, nowMinute }))
  };
}

interface Bins {
  first: number;
  last: number;
  step: number;
  read: number;
  nowMinute: number;
}

function seriesFrom(watched: Watched, cells: ReadonlyMap<number, Cell>, bins: Bins): FigureSeries {
  const { first, last, step, read, nowMinute } = bins;
  // A point of few is drawn too: a watch judges over its own minutes, and says when they are too few.
  const figure = { ...figureOf(watched), least: Math.min(1, figureOf(watched).least) };
  const per = step / read;
  const whole = sumOver(cells, first * per, (last + 1) * per - 1);
  const passed = (from: number, to: number): number => Math.max(1, Math.min(to, nowMinute) - from);
  const values = Array.from({ length: last - first + 1 }, (_, i): number | null => {
    const bin = first + i;
    if (bin * step >= nowMinute) return null;
    const cell = per === 1 ? cells.get(bin) : sumOver(cells, bin * per, (bin + 1) * per - 1);
    return valueIn(figure, cell ?? emptyCell(), passed(bin * step, (bin + 1) * step));
  });
  return {
    values,
    whole: valueIn(figure, whole, passed(first * step, (last + 1) * step)),
    count: whole.count || whole.hits
  };
}
