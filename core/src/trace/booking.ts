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
  /** Children by end, latest first. */
  byEnd: readonly number[];
  next: number;
}

/** How much may still be walked: a trace in which everything overlaps everything else is given up rather than walked for hours. */
export interface Work {
  left: number;
}

/** A trace takes more steps to account for than it may. */
export class TooEntangled extends Error {
  constructor() {
    super('Its spans overlap so much that accounting for it takes more steps than one trace may.');
  }
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
  const backwards: Stretch[] = [];
  const work = { left: Infinity };
  bookWindow(
    tree,
    { node: root, from: tree.start[root], to: tree.end[root] },
    () => false,
    work,
    (stretch) => backwards.push(stretch)
  );
  return backwards.reverse();
}

/**
 * The same walk over a part of a node's time.
 * @param closed nodes that are booked whole, with everything below them.
 * @param visit called with each stretch, the last in time first.
 * @throws TooEntangled when the work is used up.
 */
export function bookWindow(
  tree: TraceTree,
  window: Stretch,
  closed: (node: number) => boolean,
  work: Work,
  visit: (stretch: Stretch) => void
): void {
  const { start, end, children } = tree;
  const own = (node: number, from: number, to: number): void => {
    if (to > from) visit({ node, from, to });
  };
  const enter = (node: number, from: number, to: number): Frame => ({
    node,
    from,
    t: to,
    byEnd: childrenByEnd(tree, node),
    next: 0
  });
  const stack: Frame[] = [enter(window.node, window.from, window.to)];
  while (stack.length > 0) {
    const frame = stack[stack.length - 1];
    const child = nextChild(frame, tree, work);
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
    if (children[child].length === 0 || closed(child)) own(child, from, to);
    else stack.push(enter(child, from, to));
  }
}

/**
 * The child that a walk from an end begins with, where one reaches to that end or beyond.
 * @returns it, and the time after which every walk that begins earlier begins with it too; null where none reaches so far.
 */
export function chosenAt(tree: TraceTree, node: number, to: number): { child: number; after: number } | null {
  const { start, end, nodes } = tree;
  const isEarlier = (a: number, b: number): boolean =>
    start[a] < start[b] || (start[a] === start[b] && nodes[a].span.spanId < nodes[b].span.spanId);
  let child = -1;
  for (const one of tree.children[node])
    if (end[one] >= to && start[one] < to && (child < 0 || isEarlier(one, child))) child = one;
  if (child < 0) return null;
  // One that began before it would be chosen by a walk that begins before that one's end.
  let after = start[child];
  for (const one of tree.children[node])
    if (one !== child && end[one] < to && isEarlier(one, child)) after = Math.max(after, end[one]);
  return { child, after };
}

const byEndOf = new WeakMap<TraceTree, (readonly number[] | undefined)[]>();

/** Children of a node by end, latest first, then by start; sorted once for each node. */
function childrenByEnd(tree: TraceTree, node: number): readonly number[] {
  const list = tree.children[node];
  if (list.length < 2) return list;
  let known = byEndOf.get(tree);
  if (!known) byEndOf.set(tree, (known = new Array<readonly number[] | undefined>(tree.nodes.length)));
  const { start, end } = tree;
  return (known[node] ??= list.toSorted((a, b) => end[b] - end[a] || start[a] - start[b]));
}

function nextChild(frame: Frame, { start, end, nodes }: TraceTree, work: Work): number {
  const { byEnd, t, from } = frame;
  /** Children that begin together stand in the order of their span ids, as everywhere in the tree. */
  const earlier = (a: number, b: number): boolean =>
    start[a] < start[b] || (start[a] === start[b] && nodes[a].span.spanId < nodes[b].span.spanId);
  if (--work.left < 0) throw new TooEntangled();
  if (t <= from) return -1;
  let chosen = -1;
  while (frame.next < byEnd.length && end[byEnd[frame.next]] >= t) {
    const child = byEnd[frame.next++];
    work.left--;
    if (start[child] < t && (chosen < 0 || earlier(child, chosen))) chosen = child;
  }
  if (chosen >= 0) return chosen;
  while (frame.next < byEnd.length) {
    const child = byEnd[frame.next];
    if (end[child] <= from) return -1;
    frame.next++;
    work.left--;
    if (start[child] < t) return child;
  }
  return -1;
}
