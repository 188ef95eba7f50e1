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

/**
 * The pen line as an SVG path: along each row the critical path runs in, and straight up or down between them.
 * @param x pixel of a time.
 */
export function penPath(stretches: readonly Stretch[], rowOf: Int32Array, tops: Float64Array, x: (ns: number) => number): string {
  let path = '';
  let row = -1;
  for (const { node, from, to } of stretches) {
    const next = rowOf[node];
    if (next < 0) continue;
    const y = tops[next] + SPAN_HEIGHT / 2;
    if (row < 0) path = `M${x(from).toFixed(1)} ${y}`;
    else if (next !== row) path += `H${x(from).toFixed(1)}V${y}`;
    row = next;
    path += `H${x(to).toFixed(1)}`;
  }
  return path;
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
