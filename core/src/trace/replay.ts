import { subtree } from './requests';
import type { TraceTree } from './tree';

/** Some senders start spans at whole milliseconds: a sibling whose end overlaps a start by no more still came before it. */
const CLOCK_STEP_NS = 1e6;

/** When the nodes of a request would run. Nanoseconds from the request's start. */
export interface ReplayedTimes {
  durationNs: number;
  start: Map<number, number>;
  end: Map<number, number>;
}

/**
 * The duration a request would have if some spans took another time: the tree is run again with every other gap and
 * order kept. A span starts as long after the last sibling that had ended as it did; its parent ends as long after the
 * last of its children as it did. So a parallel branch that becomes the longest is seen.
 * Assumption: whatever started after something ended waited for it.
 * @param durations node → its new duration in nanoseconds; what runs inside such a node is not replayed.
 * @returns nanoseconds.
 */
export function replay(tree: TraceTree, root: number, durations: ReadonlyMap<number, number>): number {
  return replayedDurations(tree, root, durations).duration.get(root)!;
}

/** Where every span would lie after the same replay. What runs inside an edited node is drawn together with its start. */
export function replayTimes(
  tree: TraceTree,
  root: number,
  durations: ReadonlyMap<number, number>
): ReplayedTimes {
  const { nodes, duration, begins } = replayedDurations(tree, root, durations);
  const start = new Map<number, number>([[root, 0]]);
  const end = new Map<number, number>();
  for (const node of nodes) {
    const from = start.get(node)!;
    end.set(node, from + duration.get(node)!);
    for (const child of tree.children[node]) {
      const untouched = tree.start[child] - tree.start[node];
      start.set(child, from + Math.min(begins.get(child) ?? untouched, duration.get(node)!));
    }
  }
  return { durationNs: duration.get(root)!, start, end };
}

function replayedDurations(
  tree: TraceTree,
  root: number,
  durations: ReadonlyMap<number, number>
): { nodes: number[]; duration: Map<number, number>; begins: Map<number, number> } {
  const nodes = subtree(tree, root);
  const duration = new Map<number, number>();
  /** Start of a child from its parent's, where the parent was replayed. */
  const begins = new Map<number, number>();
  const touched = new Set<number>();
  for (let i = nodes.length - 1; i >= 0; i--) {
    const node = nodes[i];
    const edited = durations.has(node);
    if (edited || tree.children[node].some((child) => touched.has(child))) touched.add(node);
    // What no edit reaches keeps its duration to the nanosecond.
    const untouched = tree.end[node] - tree.start[node];
    duration.set(
      node,
      durations.get(node) ?? (touched.has(node) ? replayOne(tree, node, duration, begins) : untouched)
    );
  }
  return { nodes, duration, begins };
}

function replayOne(
  tree: TraceTree,
  node: number,
  duration: ReadonlyMap<number, number>,
  allBegins: Map<number, number>
): number {
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
    allBegins.set(child, begins);
    newEnd.set(child, begins + duration.get(child)!);
  }
  passGates(end[node]);
  return Math.max(0, newGate + end[node] - gate);
}
