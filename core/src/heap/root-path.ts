import type { HeapGraph } from './graph';
import type { HeapStore } from './heap-store';

/** For each object the one before it on a shortest path from a root: −1 for roots, −2 for what no path leads to. */
export function shortestPaths({
  count,
  edgeStart,
  edgeTo,
  roots
}: Pick<HeapGraph, 'count' | 'edgeStart' | 'edgeTo' | 'roots'>): Int32Array {
  const before = new Int32Array(count).fill(-2);
  const queue = new Uint32Array(count);
  let end = 0;
  for (let r = 0; r < roots.length; r++) {
    if (before[roots[r]] !== -2) continue;
    before[roots[r]] = -1;
    queue[end++] = roots[r];
  }
  for (let at = 0; at < end; at++) {
    const from = queue[at];
    for (let i = edgeStart[from]; i < edgeStart[from + 1]; i++) {
      const to = edgeTo[i];
      if (before[to] !== -2) continue;
      before[to] = from;
      queue[end++] = to;
    }
  }
  return before;
}

/** A path may be millions long, along a list: its beginning and its end are listed. */
const PATH_HEAD = 40;
const PATH_TAIL = 60;

/** The shortest path from a root to an object, the root first; empty where none leads to it. `leftOut` objects between are not reported. */
export function pathTo(store: HeapStore, object: number): { path: number[]; leftOut: number } {
  const before = store.column('before');
  if (before[object] === -2) return { path: [], leftOut: 0 };
  const path: number[] = [];
  for (let at = object; at >= 0; at = before[at]) path.push(at);
  path.reverse();
  if (path.length <= PATH_HEAD + PATH_TAIL) return { path, leftOut: 0 };
  return {
    path: [...path.slice(0, PATH_HEAD), ...path.slice(-PATH_TAIL)],
    leftOut: path.length - PATH_HEAD - PATH_TAIL
  };
}

/** Roots from which an object is reached, each with its path, shortest first: all that would have to let go of it. */
export function rootsHolding(
  store: HeapStore,
  object: number,
  most: number
): { root: number; steps: number }[] {
  const start = store.column('referrerStart');
  const referrers = store.column('referrers');
  const isRoot = new Set(store.column('roots'));
  const seen = new Uint8Array(store.meta.count);
  const open = new Uint32Array(MOST_SEEN);
  const found: { root: number; steps: number }[] = [];
  open[0] = object;
  seen[object] = 1;
  let end = 1;
  // Those from here on are a step further away.
  let further = 1;
  for (let at = 0, steps = 0; at < end && found.length < most; at++) {
    if (at === further) {
      steps++;
      further = end;
    }
    const one = open[at];
    if (isRoot.has(one)) found.push({ root: one, steps });
    for (let i = start[one]; i < start[one + 1] && end < MOST_SEEN; i++) {
      if (seen[referrers[i]]) continue;
      seen[referrers[i]] = 1;
      open[end++] = referrers[i];
    }
  }
  return found;
}

/** Objects looked at on the path back to roots: a click has an answer soon. */
const MOST_SEEN = 300_000;
