import { subtree } from './requests';
import type { TraceTree } from './tree';

/** Some senders start spans at whole milliseconds: a sibling whose end overlaps a start by no more still came before it. */
const CLOCK_STEP_NS = 1e6;

/**
 * The duration a request would have if some spans took another time: the tree is run again with every other gap and
 * order kept. A span starts as long after the last sibling that had ended as it did; its parent ends as long after the
 * last of its children as it did. So a parallel branch that becomes the longest is seen.
 * Assumption: whatever started after something ended waited for it.
 * @param durations node → its new duration in nanoseconds; what runs inside such a node is not replayed.
 * @returns nanoseconds.
 */
export function replay(tree: TraceTree, root: number, durations: ReadonlyMap<number, number>): number {
  const nodes = subtree(tree, root);
  const duration = new Map<number, number>();
  const touched = new Set<number>();
  for (let i = nodes.length - 1; i >= 0; i--) {
    const node = nodes[i];
    const edited = durations.has(node);
    if (edited || tree.children[node].some((child) => touched.has(child))) touched.add(node);
    // What no edit reaches keeps its duration to the nanosecond.
    const untouched = tree.end[node] - tree.start[node];
    duration.set(
      node,
      durations.get(node) ?? (touched.has(node) ? replayOne(tree, node, duration) : untouched)
    );
  }
  return duration.get(root)!;
}

function replayOne(tree: TraceTree, node: number, duration: ReadonlyMap<number, number>): number {
  const { start, end } = tree;
  const byStart = tree.children[node];
  const whole = end[node] - start[node];
  if (byStart.length === 0) return whole;
  // Effective ends: what overlaps by a clock's step, and by no more than half of itself, counts as ended.
  const over = (child: number): number =>
    end[child] - Math.min(CLOCK_STEP_NS, (end[child] - start[child]) / 2);
  const byEnd = [...byStart].sort((a, b) => over(a) - over(b));
  const newEnd = new Map<number, number>();
  let ended = 0;
  let gate = start[node];
  let newGate = 0;
  const passGates = (until: number): void => {
    while (ended < byEnd.length && over(byEnd[ended]) <= until && newEnd.has(byEnd[ended])) {
      gate = Math.max(gate, end[byEnd[ended]]);
      newGate = Math.max(newGate, newEnd.get(byEnd[ended])!);
      ended++;
    }
  };
  for (const child of byStart) {
    passGates(start[child]);
    const begins = Math.max(0, newGate + start[child] - gate);
    newEnd.set(child, begins + duration.get(child)!);
  }
  passGates(end[node]);
  return Math.max(0, newGate + end[node] - gate);
}
