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

/** Visits that pass within so many pixels are drawn as one stroke: a line up and down at every call would blacken the picture. */
const STROKE_PX = 8;
/** A stroke leaves out rows that hold less of its time than this part of what its main row holds: the gaps between like calls. */
const MAIN_PART = 1 / 3;
/** An excursion narrower than this, back to the row it left, is left out. */
const SHORTEST_EXCURSION_PX = 4;

/** A movement of the pen, in pixels: down and up over the rows it passes, and on along the last. */
interface Stroke {
  from: number;
  to: number;
  /** In the order they were come to first, with the pixels spent in each. */
  rows: number[];
  spent: number[];
  /** The row it ends in. */
  last: number;
}

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
  for (const { rows, last, from, to } of withoutExcursions(strokes(stretches, rowOf, x))) {
    path += path === '' ? `M${from.toFixed(1)} ${middleOf(tops, rows[0])}` : `H${from.toFixed(1)}`;
    if (at < 0) at = rows[0];
    for (const row of [rows[0], Math.min(...rows), Math.max(...rows), last]) {
      if (row !== at) path += `V${middleOf(tops, row)}`;
      at = row;
    }
    path += `H${to.toFixed(1)}`;
  }
  return path;
}

const middleOf = (tops: Float64Array, row: number): number => tops[row] + SPAN_HEIGHT / 2;

function strokes(stretches: readonly Stretch[], rowOf: Int32Array, x: (ns: number) => number): Stroke[] {
  const out: Stroke[] = [];
  for (const stretch of stretches) {
    const row = rowOf[stretch.node];
    if (row < 0) continue;
    const from = x(stretch.from);
    const to = x(stretch.to);
    const stroke = out.at(-1);
    if (!stroke) out.push({ from, to, rows: [row], spent: [to - from], last: row });
    else if (to - stroke.from < STROKE_PX || (stroke.rows.length === 1 && stroke.last === row)) {
      const known = stroke.rows.indexOf(row);
      if (known < 0) {
        stroke.rows.push(row);
        stroke.spent.push(to - from);
      } else stroke.spent[known] += to - from;
      stroke.to = to;
      stroke.last = row;
    } else {
      leaveGapsOut(stroke);
      out.push({ from, to, rows: [row], spent: [to - from], last: row });
    }
  }
  const end = out.at(-1);
  if (end) leaveGapsOut(end);
  return out;
}

function leaveGapsOut(stroke: Stroke): void {
  if (stroke.rows.length === 1) return;
  const least = Math.max(...stroke.spent) * MAIN_PART;
  stroke.rows = stroke.rows.filter((_, i) => stroke.spent[i] >= least);
  if (!stroke.rows.includes(stroke.last)) stroke.last = stroke.rows.at(-1)!;
}

/** Strokes along one row as one, also where the pen left it for no longer than a moment. */
function withoutExcursions(all: readonly Stroke[]): Stroke[] {
  const out: Stroke[] = [];
  const only = (stroke: Stroke | undefined): number => (stroke?.rows.length === 1 ? stroke.last : -1);
  for (const stroke of all) {
    const row = only(stroke);
    const last = out.at(-1);
    const short = last && only(last) >= 0 && last.to - last.from < SHORTEST_EXCURSION_PX;
    if (row >= 0 && row === only(last)) last!.to = stroke.to;
    else if (row >= 0 && short && row === only(out.at(-2))) {
      out.pop();
      out.at(-1)!.to = stroke.to;
    } else out.push(stroke);
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
