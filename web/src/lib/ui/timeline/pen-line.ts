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
  for (const { row, from, to } of visits(stretches, rowOf, x)) {
    const y = tops[row] + SPAN_HEIGHT / 2;
    path += path === '' ? `M${from.toFixed(1)} ${y}` : `H${from.toFixed(1)}V${y}`;
    path += `H${to.toFixed(1)}`;
  }
  return path;
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

/** Teeth of a comb: each call a bar of its length, at least a hair wide; those that fall on the same pixel are drawn once. */
export function combPath(spans: readonly { from: number; to: number }[], x: (ns: number) => number): string {
  const HAIR = 1.2;
  let path = '';
  let drawn = -Infinity;
  for (const { from, to } of spans) {
    const left = x(from);
    const right = Math.max(left + HAIR, x(to) - 0.8);
    if (right - drawn < 0.5) continue;
    path += `M${Math.max(left, drawn).toFixed(1)} 0H${right.toFixed(1)}V12H${Math.max(left, drawn).toFixed(1)}Z`;
    drawn = right;
  }
  return path;
}
