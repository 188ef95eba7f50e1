import * as v from 'valibot';
import type { FlameLayout } from '@tromix/core/profile/flame-layout';
import type { Param } from '$lib/ui/frame/params';

export const ROW = 22;

/** What part of the whole width is in view: 0 to 1. */
export interface Zoom {
  from: number;
  to: number;
}

export const WHOLE_ZOOM: Zoom = { from: 0, to: 1 };
/** Closer than this single samples are wider than the screen. */
const CLOSEST = 1e-6;

/** Keeps a zoom inside the whole, and not closer than makes sense. */
export function clampZoom({ from, to }: Zoom): Zoom {
  const width = Math.min(1, Math.max(CLOSEST, to - from));
  const left = Math.min(1 - width, Math.max(0, from));
  return { from: left, to: left + width };
}

/** Digits that tell two neighbouring pixels of the closest zoom apart. */
const DIGITS = 9;

/** The part in view as it stands in an address, as `0.25-0.5`; the whole does not stand there. */
export const zoomParam = (): Param<Zoom> => ({
  read: v.pipe(
    v.array(v.string()),
    v.transform(([written = '']) => {
      const [, from, to] = /^(0(?:\.\d{1,12})?)-([01](?:\.\d{1,12})?)$/.exec(written) ?? [];
      return Number(to) > Number(from) ? clampZoom({ from: Number(from), to: Number(to) }) : WHOLE_ZOOM;
    })
  ),
  write: ({ from, to }) =>
    from <= 0 && to >= 1 ? [] : [[from, to].map((part) => String(Number(part.toFixed(DIGITS)))).join('-')],
  name: 'zoom'
});

/** Zooms by a factor with one point standing still. */
export function zoomAt(zoom: Zoom, at: number, factor: number): Zoom {
  return clampZoom({ from: at - (at - zoom.from) * factor, to: at + (zoom.to - at) * factor });
}

/** The box at a part of the width and a row; −1 where there is none. Boxes of a row are found by bisection over `rows`. */
export function boxAt(layout: FlameLayout, rows: RowIndex, x: number, depth: number): number {
  if (depth < 0 || depth >= layout.rows) return -1;
  let low = rows.start[depth];
  let high = rows.start[depth + 1] - 1;
  while (low <= high) {
    const middle = (low + high) >> 1;
    const box = middle;
    if (layout.x[box] > x) high = middle - 1;
    else if (layout.x[box] + layout.width[box] <= x) low = middle + 1;
    else return box;
  }
  return -1;
}

/** Boxes are laid out row by row from left to right: where each row begins. */
export interface RowIndex {
  start: Int32Array;
}

export function indexRows(layout: FlameLayout): RowIndex {
  const start = new Int32Array(layout.rows + 1);
  for (let box = 0; box < layout.depth.length; box++) start[layout.depth[box] + 1] = box + 1;
  // A row without boxes (the name of a thread stands there) begins where the one before ends.
  for (let row = 1; row <= layout.rows; row++) start[row] = Math.max(start[row], start[row - 1]);
  return { start };
}

/** A frame that holds so much of all is shared by nearly every stack. */
const SHARED = 0.95;
/** Fewer rows take no room worth saving. */
const LEAST_TRUNK = 3;

/**
 * Rows from the root on that nearly every stack shares, up to the last of them: what stands below it tells stacks apart.
 * @param burns whether a node is worth seeing by itself
 */
export function trunkRows(layout: FlameLayout, rows: RowIndex, burns: (node: number) => boolean): number {
  let box = 0;
  let depth = 0;
  while (depth + 1 < layout.rows) {
    let next = rows.start[depth + 1];
    while (next < rows.start[depth + 2] && layout.parent[next] !== box) next++;
    // Siblings come heaviest first.
    const isShared = next < rows.start[depth + 2] && layout.width[next] >= SHARED * layout.width[0];
    if (!isShared || burns(layout.node[next])) break;
    box = next;
    depth++;
  }
  return depth >= LEAST_TRUNK ? depth : 0;
}

/** The first box of a row that ends right of a point: where drawing begins. */
export function firstVisible(layout: FlameLayout, rows: RowIndex, depth: number, from: number): number {
  let low = rows.start[depth];
  let high = rows.start[depth + 1];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (layout.x[middle] + layout.width[middle] <= from) low = middle + 1;
    else high = middle;
  }
  return low;
}
