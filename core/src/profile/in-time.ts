import { lowerBoundBy, lowerBound } from '../binary-search';
import { emptyLayout, type FlameLayout } from './flame-layout';
import type { Profile } from './model';
import type { ShapedTree } from './shape';

export interface TimeWindow {
  fromNs: number;
  toNs: number;
  /** Index of a thread; −1 for all. */
  thread: number;
  includeIdle: boolean;
  /** The finest stretch that can be distinguished, as a part of the window: one pixel of the picture. */
  finest: number;
}

/** The rows of one thread in a picture of several: its name stands in a row of its own above its stacks. */
export interface ThreadBand {
  thread: number;
  /** Row of the name. */
  row: number;
}

export interface TimeLayout extends FlameLayout {
  /** Some samples share a pixel and are not shown. */
  thinned: boolean;
  /** Where the threads' names stand; none where there is one set of rows. */
  bands: ThreadBand[];
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
export function layoutInTime(profile: Profile, tree: ShapedTree, window: TimeWindow): TimeLayout {
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
  return { ...joinRows(rows), thinned, bands: [] };
}

/** Every thread with samples in the window in time order, one set of rows below the other. */
export function layoutThreadsInTime(profile: Profile, tree: ShapedTree, window: TimeWindow): TimeLayout {
  const parts = profile.threads
    .map((_, thread) => ({ thread, layout: layoutInTime(profile, tree, { ...window, thread }) }))
    .filter(({ layout }) => layout.rows > 0);
  const size = parts.reduce((sum, { layout }) => sum + layout.node.length, 0);
  const joined = emptyLayout(size);
  const bands: ThreadBand[] = [];
  let box = 0;
  for (const { thread, layout } of parts) {
    bands.push({ thread, row: joined.rows });
    const first = joined.rows + 1;
    joined.node.set(layout.node, box);
    joined.x.set(layout.x, box);
    joined.width.set(layout.width, box);
    for (let i = 0; i < layout.node.length; i++) {
      joined.depth[box + i] = first + layout.depth[i];
      joined.parent[box + i] = layout.parent[i] < 0 ? -1 : box + layout.parent[i];
    }
    box += layout.node.length;
    joined.rows = first + layout.rows;
  }
  return { ...joined, thinned: parts.some(({ layout }) => layout.thinned), bands };
}

function joinRows(rows: { node: number[]; x: number[]; width: number[]; parent: number[] }[]): FlameLayout {
  const size = rows.reduce((sum, row) => sum + row.node.length, 0);
  const layout: FlameLayout = { ...emptyLayout(size), rows: rows.length };
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
  profile: Profile,
  tree: ShapedTree,
  { fromNs, toNs, thread, includeIdle, finest }: TimeWindow
): { stretches: Stretch[]; thinned: boolean } {
  const { sampleNode, sampleTime, sampleWeight, nodeFrame, frames } = profile;
  const own = thread < 0 ? null : samplesOf(profile, thread);
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
  const count = own?.length ?? sampleNode.length;
  const begun = own
    ? lowerBoundBy(own.length, (at) => sampleTime[own[at]], fromNs)
    : lowerBound(sampleTime, fromNs);
  for (let at = Math.max(0, begun - 1); at < count; at++) {
    const i = own ? own[at] : at;
    if (sampleTime[i] >= toNs) break;
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

/** Samples of each thread, in time order; looked for once a profile, because a picture asks for them with each zoom. */
const ofThreads = new WeakMap<Profile, Int32Array[]>();

/** The samples of a thread; null where the profile has only one. */
function samplesOf(profile: Profile, thread: number): Int32Array | null {
  const { sampleThread, threads } = profile;
  if (!sampleThread) return null;
  let known = ofThreads.get(profile);
  if (!known) {
    const counts = new Int32Array(threads.length);
    for (let i = 0; i < sampleThread.length; i++) counts[sampleThread[i]]++;
    known = Array.from(counts, (count) => new Int32Array(count));
    counts.fill(0);
    for (let i = 0; i < sampleThread.length; i++) known[sampleThread[i]][counts[sampleThread[i]]++] = i;
    ofThreads.set(profile, known);
  }
  return known[thread];
}
