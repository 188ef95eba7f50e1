import { subtree } from './requests';
import type { TraceTree } from './tree';

/** Some senders start spans at whole milliseconds: a sibling whose end overlaps a start by no more still came before it. */
export const CLOCK_STEP_NS = 1e6;

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
  return replayedDurations(tree, root, durations).duration[root];
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
    end.set(node, from + duration[node]);
    for (const child of tree.children[node]) {
      const begin = Number.isNaN(begins[child]) ? tree.start[child] - tree.start[node] : begins[child];
      start.set(child, from + Math.min(begin, duration[node]));
    }
  }
  return { durationNs: duration[root], start, end };
}

/** What a replay works on, by node. Nanoseconds. */
interface Replay {
  tree: TraceTree;
  nodes: number[];
  duration: Float64Array;
  /** Start of a child from its parent's; NaN where the parent was not replayed. */
  begins: Float64Array;
}

function replayedDurations(tree: TraceTree, root: number, durations: ReadonlyMap<number, number>): Replay {
  const size = tree.nodes.length;
  const run: Replay = {
    tree,
    nodes: subtree(tree, root),
    duration: new Float64Array(size),
    begins: new Float64Array(size).fill(NaN)
  };
  const touched = new Uint8Array(size);
  for (const node of durations.keys()) touched[node] = 1;
  // Children come before their parents.
  for (let i = run.nodes.length - 1; i >= 0; i--) {
    const node = run.nodes[i];
    const edited = durations.get(node);
    // What no edit reaches keeps its duration to the nanosecond.
    run.duration[node] =
      edited ?? (touched[node] === 1 ? replayOne(run, node) : tree.end[node] - tree.start[node]);
    if (touched[node] === 1 && tree.parent[node] >= 0) touched[tree.parent[node]] = 1;
  }
  return run;
}

function replayOne({ tree, duration, begins }: Replay, node: number): number {
  const { start, end } = tree;
  const byStart = tree.children[node];
  const whole = end[node] - start[node];
  if (byStart.length === 0) return whole;
  // Effective ends: what overlaps by a clock's step, and by no more than half of itself, counts as ended.
  const over = Float64Array.from(
    byStart,
    (child) => end[child] - Math.min(CLOCK_STEP_NS, (end[child] - start[child]) / 2)
  );
  /** Places in `byStart`, by effective end. */
  const byEnd = Uint32Array.from(byStart, (_, i) => i).sort((a, b) => over[a] - over[b]);
  /** Children before this place have begun anew. */
  let begun = 0;
  let ended = 0;
  let gate = start[node];
  let newGate = 0;
  const passGates = (until: number): void => {
    while (ended < byEnd.length && over[byEnd[ended]] <= until && byEnd[ended] < begun) {
      const child = byStart[byEnd[ended]];
      gate = Math.max(gate, end[child]);
      newGate = Math.max(newGate, begins[child] + duration[child]);
      ended++;
    }
  };
  for (const child of byStart) {
    passGates(start[child]);
    begins[child] = Math.max(0, newGate + start[child] - gate);
    begun++;
  }
  passGates(end[node]);
  return Math.max(0, newGate + end[node] - gate);
}
