import type { FlameLayout } from './flame-layout';
import type { Profile } from './model';
import type { ShapedTree } from './shape';
import { lowerBound } from './slice';

export interface TimeWindow {
  fromNs: number;
  toNs: number;
  /** Index of a thread; −1 for all. */
  thread: number;
  includeIdle: boolean;
  /** The finest stretch that can be told apart, as a part of the window: one pixel of the picture. */
  finest: number;
}

/** A stretch in which one stack ran. */
interface Stretch {
  node: number;
  fromNs: number;
  toNs: number;
}

/**
 * Lays stacks out in time order: a box lasts while its call stays on the stack. Where several samples share a pixel, the
 * stack that ran longest in it stands for all: the picture is then a thinned one, and zooming in shows the rest.
 * Boxes come row by row, from left to right; x and width are parts of the window.
 */
export function layoutInTime(
  profile: Profile,
  tree: ShapedTree,
  window: TimeWindow
): FlameLayout & { thinned: boolean } {
  const { stretches, thinned } = stretchesIn(profile, tree, window);
  const { nodeParent } = tree;
  const length = window.toNs - window.fromNs;
  const rows: { node: number[]; x: number[]; width: number[]; parent: number[] }[] = [];
  /** The stack of the stretch before, from the root, and the index of each of its boxes within its row. */
  let open: { node: number; at: number }[] = [];
  let last = -Infinity;
  for (const { node, fromNs, toNs } of stretches) {
    const path: number[] = [];
    for (let at = node; at >= 0; at = nodeParent[at]) path.push(at);
    path.reverse();
    const joined = fromNs <= last;
    const stack: { node: number; at: number }[] = [];
    for (let depth = 0; depth < path.length; depth++) {
      const row = (rows[depth] ??= { node: [], x: [], width: [], parent: [] });
      const same = joined && open[depth]?.node === path[depth] && stack.length === depth;
      const stays = same && (depth === 0 || stack[depth - 1].at === open[depth - 1].at);
      if (stays) {
        row.width[open[depth].at] = (toNs - window.fromNs) / length - row.x[open[depth].at];
        stack.push(open[depth]);
      } else {
        row.node.push(path[depth]);
        row.x.push((fromNs - window.fromNs) / length);
        row.width.push((toNs - fromNs) / length);
        row.parent.push(depth === 0 ? -1 : stack[depth - 1].at);
        stack.push({ node: path[depth], at: row.node.length - 1 });
      }
    }
    open = stack;
    last = toNs;
  }
  return { ...joinRows(rows), thinned };
}

function joinRows(rows: { node: number[]; x: number[]; width: number[]; parent: number[] }[]): FlameLayout {
  const size = rows.reduce((sum, row) => sum + row.node.length, 0);
  const layout: FlameLayout = {
    node: new Int32Array(size),
    depth: new Int32Array(size),
    x: new Float64Array(size),
    width: new Float64Array(size),
    parent: new Int32Array(size),
    rows: rows.length
  };
  let box = 0;
  let above = 0;
  rows.forEach((row, depth) => {
    const start = box;
    for (let i = 0; i < row.node.length; i++, box++) {
      layout.node[box] = row.node[i];
      layout.depth[box] = depth;
      layout.x[box] = row.x[i];
      layout.width[box] = row.width[i];
      layout.parent[box] = row.parent[i] < 0 ? -1 : above + row.parent[i];
    }
    above = start;
  });
  return layout;
}

/** The stacks of a window one after another: each sample, or one for each pixel where samples are closer than that. */
function stretchesIn(
  { sampleNode, sampleTime, sampleWeight, sampleThread, nodeFrame, frames }: Profile,
  tree: ShapedTree,
  { fromNs, toNs, thread, includeIdle, finest }: TimeWindow
): { stretches: Stretch[]; thinned: boolean } {
  const stretches: Stretch[] = [];
  const pixel = (toNs - fromNs) * finest;
  const inPixel = new Map<number, number>();
  let pixelEnd = -Infinity;
  let pixelFrom = 0;
  let pixelTo = 0;
  let thinned = false;
  const add = (node: number, from: number, to: number): void => {
    const before = stretches.at(-1);
    if (before?.node === node && before.toNs >= from) before.toNs = Math.max(before.toNs, to);
    else if (node >= 0) stretches.push({ node, fromNs: from, toNs: to });
  };
  const flush = (): void => {
    if (inPixel.size === 0) return;
    if (inPixel.size > 1) thinned = true;
    let best = -1;
    let most = -1;
    for (const [node, weight] of inPixel) if (weight > most) [best, most] = [node, weight];
    add(best, pixelFrom, pixelTo);
    inPixel.clear();
  };
  for (
    let i = Math.max(0, lowerBound(sampleTime, fromNs) - 1);
    i < sampleNode.length && sampleTime[i] < toNs;
    i++
  ) {
    if (thread >= 0 && sampleThread && sampleThread[i] !== thread) continue;
    const begin = Math.max(fromNs, sampleTime[i]);
    const finish = Math.min(toNs, sampleTime[i] + sampleWeight[i]);
    if (finish <= begin) continue;
    const idle = !includeIdle && frames[nodeFrame[sampleNode[i]]].kind === 'idle';
    const node = idle ? -1 : tree.nodeOf[sampleNode[i]];
    if (begin >= pixelEnd) {
      flush();
      pixelEnd = begin + pixel;
      pixelFrom = begin;
    }
    inPixel.set(node, (inPixel.get(node) ?? 0) + finish - begin);
    pixelTo = finish;
  }
  flush();
  return { stretches, thinned };
}
