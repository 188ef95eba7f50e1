import type { Stretch } from '@tromix/core/trace/booking';
import type { TimelineRow } from '@tromix/core/trace/rows';

export const SPAN_HEIGHT = 25;
export const PROCESS_HEIGHT = 22;

/** Where each row begins, and where the last ends, in pixels. */
export function rowTops(rows: readonly TimelineRow[]): Float64Array {
  const tops = new Float64Array(rows.length + 1);
  rows.forEach((row, i) => (tops[i + 1] = tops[i] + (row.kind === 'process' ? PROCESS_HEIGHT : SPAN_HEIGHT)));
  return tops;
}

/** The rows between two heights: those to draw. */
export function rowsBetween(tops: Float64Array, from: number, to: number): [number, number] {
  let first = 0;
  while (first < tops.length - 2 && tops[first + 1] <= from) first++;
  let last = first;
  while (last < tops.length - 1 && tops[last] < to) last++;
  return [first, last];
}

/** A visit of the pen to a row, in pixels. */
interface Visit {
  row: number;
  from: number;
  to: number;
}

/** An excursion narrower than this, back to the row it left, would only blacken the picture (the gaps between the teeth of a comb). */
const SHORTEST_EXCURSION_PX = 4;
/** Visits that pass within so little are drawn as one stroke over all their rows: thousands in a picture of some hundred pixels. */
const STROKE_PX = 0.75;

/**
 * The pen line as an SVG path: along each row the critical path runs in, and straight up or down between them.
 * @param x pixel of a time.
 */
export function penPath(
  stretches: readonly Stretch[],
  rowOf: Int32Array,
  tops: Float64Array,
  x: (ns: number) => number
): string {
  let path = '';
  let at = -1;
  const go = (row: number): void => {
    if (row !== at) path += `V${tops[row] + SPAN_HEIGHT / 2}`;
    at = row;
  };
  for (const { first, top, bottom, last, from, to } of strokes(visits(stretches, rowOf, x))) {
    if (at < 0) path = `M${from.toFixed(1)} ${tops[first] + SPAN_HEIGHT / 2}`;
    else path += `H${from.toFixed(1)}`;
    if (at < 0) at = first;
    for (const row of [first, top, bottom, last]) go(row);
    path += `H${to.toFixed(1)}`;
  }
  return path;
}

/** Visits too short to be told apart, as one movement over their rows. */
interface Stroke {
  first: number;
  top: number;
  bottom: number;
  last: number;
  from: number;
  to: number;
}

function strokes(all: readonly Visit[]): Stroke[] {
  const out: Stroke[] = [];
  for (const { row, from, to } of all) {
    const stroke = out.at(-1);
    if (stroke && to - stroke.from < STROKE_PX) {
      stroke.top = Math.min(stroke.top, row);
      stroke.bottom = Math.max(stroke.bottom, row);
      stroke.last = row;
      stroke.to = to;
    } else out.push({ first: row, top: row, bottom: row, last: row, from, to });
  }
  return out;
}

function visits(stretches: readonly Stretch[], rowOf: Int32Array, x: (ns: number) => number): Visit[] {
  const out: Visit[] = [];
  for (const { node, from, to } of stretches) {
    const row = rowOf[node];
    if (row < 0) continue;
    const last = out.at(-1);
    const before = out.at(-2);
    if (last?.row === row) last.to = x(to);
    else if (last && before?.row === row && last.to - last.from < SHORTEST_EXCURSION_PX) {
      out.pop();
      before.to = x(to);
    } else out.push({ row, from: x(from), to: x(to) });
  }
  return out;
}

/**
 * Teeth of a comb: each call a bar of its length, at least a hair wide, a thin gap behind it; where there is no room for gaps
 * they run into one bar.
 * @param start,end time of each node.
 */
export function combPath(
  members: readonly number[],
  start: ArrayLike<number>,
  end: ArrayLike<number>,
  x: (ns: number) => number
): string {
  const HAIR = 1.2;
  const GAP = 0.8;
  let path = '';
  let left = NaN;
  let right = -Infinity;
  const draw = (): void => {
    if (right > left) path += `M${left.toFixed(1)} 0H${right.toFixed(1)}V12H${left.toFixed(1)}Z`;
  };
  for (const node of members) {
    const from = x(start[node]);
    const to = Math.max(from + HAIR, x(end[node]) - GAP);
    if (from > right) {
      draw();
      left = from;
      right = to;
    } else right = Math.max(right, to);
  }
  draw();
  return path;
}
