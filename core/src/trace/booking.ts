import type { TraceTree } from './tree';

/** A stretch of a request's wall time and the node it belongs to. Nanoseconds on the tree's axis. */
export interface Stretch {
  node: number;
  from: number;
  to: number;
}

interface Frame {
  node: number;
  from: number;
  t: number;
  /** Children by end, latest first; only those that end after `from`. */
  byEnd: number[];
  next: number;
}

/**
 * Books every nanosecond of a node's wall time once, by walking back from its end: among the children that start
 * before `t` and end after `from`, the one with the greatest `min(end, t)` (ties: the earlier start) is visited, the time
 * between that end and `t` is the node's own, and so on down to `from`. The stretches, in time order, are the critical path.
 * Source: critical-path analysis of call trees by backward walk (general technique).
 *
 * Runs in O(n log n) without recursion: once children that outlast `t` are compared, only the earliest start among
 * them can ever be chosen, because every other starts at or after the new `t`.
 * @returns stretches that tile `[start, end]` of the node exactly, zero-length ones left out.
 */
export function book(tree: TraceTree, root: number): Stretch[] {
  const { start, end, children } = tree;
  const backwards: Stretch[] = [];
  const own = (node: number, from: number, to: number): void => {
    if (to > from) backwards.push({ node, from, to });
  };
  const enter = (node: number, from: number, to: number): Frame => {
    const byEnd = children[node].filter((child) => end[child] > from && start[child] < to);
    byEnd.sort((a, b) => end[b] - end[a] || start[a] - start[b]);
    return { node, from, t: to, byEnd, next: 0 };
  };
  const stack: Frame[] = [enter(root, start[root], end[root])];
  while (stack.length > 0) {
    const frame = stack[stack.length - 1];
    const child = nextChild(frame, tree);
    if (child < 0) {
      own(frame.node, frame.from, frame.t);
      stack.pop();
      continue;
    }
    const to = Math.min(end[child], frame.t);
    const from = Math.max(start[child], frame.from);
    own(frame.node, to, frame.t);
    frame.t = from;
    // Most spans have no children: all of it is theirs.
    if (children[child].length === 0) own(child, from, to);
    else stack.push(enter(child, from, to));
  }
  return backwards.reverse();
}

function nextChild(frame: Frame, { start, end, nodes }: TraceTree): number {
  const { byEnd, t, from } = frame;
  /** Children that begin together stand in the order of their span ids, as everywhere in the tree. */
  const earlier = (a: number, b: number): boolean =>
    start[a] < start[b] || (start[a] === start[b] && nodes[a].span.spanId < nodes[b].span.spanId);
  if (t <= from) return -1;
  let chosen = -1;
  while (frame.next < byEnd.length && end[byEnd[frame.next]] >= t) {
    const child = byEnd[frame.next++];
    if (start[child] < t && (chosen < 0 || earlier(child, chosen))) chosen = child;
  }
  if (chosen >= 0) return chosen;
  while (frame.next < byEnd.length) {
    const child = byEnd[frame.next++];
    if (start[child] < t) return child;
  }
  return -1;
}
