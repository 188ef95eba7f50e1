import { emptySketch, mergeInto, pairsOf, addBucket, type Sketch } from '../stats/sketch';

/** What is known of something over some minutes: sums that can be added and taken back exactly, so that a stretch of time slides. */
export interface Cell {
  /** Requests, calls, loads, or minutes in which a counter told something. */
  count: number;
  /** Those that failed. */
  failed: number;
  /** Their durations, nanoseconds; of a counter its values. */
  sum: number;
  /** What is counted beside them: calls of requests, requests with a finding or with a call, failures, crashes. */
  hits: number;
  /** Durations in microseconds; of vitals see `SKETCH_UNITS`. */
  sketch: Sketch;
  failedSketch: Sketch;
}

/** Cells by minute since the epoch. A minute without one has nothing in it. */
export type Cells = ReadonlyMap<number, Cell>;

export const emptyCell = (): Cell => ({
  count: 0,
  failed: 0,
  sum: 0,
  hits: 0,
  sketch: emptySketch(),
  failedSketch: emptySketch()
});

/** Adds a cell to another, which changes. */
export function addCell(target: Cell, source: Cell): void {
  target.count += source.count;
  target.failed += source.failed;
  target.sum += source.sum;
  target.hits += source.hits;
  mergeInto(target.sketch, source.sketch);
  mergeInto(target.failedSketch, source.failedSketch);
}

function takeSketch(target: Sketch, source: Sketch): void {
  for (const [bucket, count] of pairsOf(source)) addBucket(target, bucket, -count);
}

/** Takes back what was added. */
function takeCell(target: Cell, source: Cell): void {
  target.count -= source.count;
  target.failed -= source.failed;
  target.sum -= source.sum;
  target.hits -= source.hits;
  takeSketch(target.sketch, source.sketch);
  takeSketch(target.failedSketch, source.failedSketch);
}

/** Puts a cell beside the others of its minute. The first stays as it came; a second makes a sum of its own, so that what was read is never changed. */
export function putCell(cells: Map<number, Cell>, minute: number, cell: Cell): void {
  const known = cells.get(minute);
  if (!known) {
    cells.set(minute, cell);
    return;
  }
  const sum = emptyCell();
  addCell(sum, known);
  addCell(sum, cell);
  cells.set(minute, sum);
}

/** The sum over the minutes from one to another, both included. */
export function sumOver(cells: Cells, from: number, to: number): Cell {
  const sum = emptyCell();
  for (let minute = from; minute <= to; minute++) {
    const cell = cells.get(minute);
    if (cell) addCell(sum, cell);
  }
  return sum;
}

/** The sums over each `length` minutes that end with a minute from `from` to `to`, both included. The cell that is given out changes with the next. */
export function* sliding(cells: Cells, from: number, to: number, length: number): Generator<[number, Cell]> {
  const cell = sumOver(cells, from - length + 1, from - 1);
  for (let minute = from; minute <= to; minute++) {
    const added = cells.get(minute);
    if (added) addCell(cell, added);
    // Values of counters are no integers: taken back they would leave a trace, so they are added up anew.
    cell.sum = 0;
    for (let at = minute - length + 1; at <= minute; at++) cell.sum += cells.get(at)?.sum ?? 0;
    yield [minute, cell];
    const left = cells.get(minute - length + 1);
    if (left) takeCell(cell, left);
  }
}
