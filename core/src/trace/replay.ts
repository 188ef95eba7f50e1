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
 * A request that can be run again with some spans taking another time: every other gap and order is kept. A span starts
 * as long after the last sibling that had ended as it did; its parent ends as long after the last of its children as it
 * did. So a parallel branch that becomes the longest is seen. What no edit changes is worked out once.
 * Assumption: whatever started after something ended waited for it.
 */
export class Replay {
  readonly #tree: TraceTree;
  readonly #root: number;
  /** The request's subtree, parents before children. */
  readonly #nodes: number[];
  /** Durations as they were, by node. */
  readonly #was: Float64Array;
  readonly #ends = new Map<number, Ends>();

  constructor(tree: TraceTree, root: number) {
    this.#tree = tree;
    this.#root = root;
    this.#nodes = subtree(tree, root);
    this.#was = tree.end.map((end, node) => end - tree.start[node]);
  }

  /**
   * The duration the request would have, nanoseconds.
   * @param durations node → its new duration in nanoseconds; what runs inside such a node is not replayed.
   */
  durationNs(durations: ReadonlyMap<number, number>): number {
    return this.#run(durations).duration[this.#root];
  }

  /** Where every span would lie after the same replay. What runs inside an edited node is drawn together with its start. */
  times(durations: ReadonlyMap<number, number>): ReplayedTimes {
    const { duration, begins } = this.#run(durations);
    const { children, start: was } = this.#tree;
    const start = new Map<number, number>([[this.#root, 0]]);
    const end = new Map<number, number>();
    for (const node of this.#nodes) {
      const from = start.get(node)!;
      end.set(node, from + duration[node]);
      for (const child of children[node]) {
        const begin = Number.isNaN(begins[child]) ? was[child] - was[node] : begins[child];
        start.set(child, from + Math.min(begin, duration[node]));
      }
    }
    return { durationNs: duration[this.#root], start, end };
  }

  #run(durations: ReadonlyMap<number, number>): Run {
    const { parent } = this.#tree;
    const size = this.#was.length;
    const run: Run = { duration: this.#was.slice(), begins: new Float64Array(size).fill(NaN) };
    /** Nodes with an edit in them; what no edit reaches keeps its duration to the nanosecond. */
    const touched = new Uint8Array(size);
    for (const node of durations.keys()) touched[node] = 1;
    // Children come before their parents.
    for (let i = this.#nodes.length - 1; i >= 0; i--) {
      const node = this.#nodes[i];
      if (touched[node] === 0) continue;
      run.duration[node] = durations.get(node) ?? this.#replayOne(run, node);
      if (parent[node] >= 0) touched[parent[node]] = 1;
    }
    return run;
  }

  #replayOne({ duration, begins }: Run, node: number): number {
    const { start, end, children } = this.#tree;
    const byStart = children[node];
    if (byStart.length === 0) return this.#was[node];
    const { over, byEnd } = this.#endsOf(node);
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
      // None begins before its parent that did not before.
      const earliest = Math.min(0, start[child] - start[node]);
      begins[child] = Math.max(earliest, newGate + start[child] - gate);
      begun++;
    }
    passGates(end[node]);
    return Math.max(0, newGate + end[node] - gate);
  }

  #endsOf(node: number): Ends {
    let ends = this.#ends.get(node);
    if (!ends) this.#ends.set(node, (ends = endsOf(this.#tree, node)));
    return ends;
  }
}

/** What one run works out, by node. Nanoseconds. */
interface Run {
  duration: Float64Array;
  /** Start of a child from its parent's; NaN where the parent was not replayed. */
  begins: Float64Array;
}

/** When the children of a node count as ended. */
interface Ends {
  /** Effective end of each child: what overlaps by a clock's step, and by no more than half of itself, counts as ended. */
  over: Float64Array;
  /** Places in the list of children, by effective end. */
  byEnd: Uint32Array;
}

function endsOf({ start, end, children }: TraceTree, node: number): Ends {
  const over = new Float64Array(children[node].length);
  const byEnd = new Uint32Array(over.length);
  children[node].forEach((child, i) => {
    over[i] = end[child] - Math.min(CLOCK_STEP_NS, (end[child] - start[child]) / 2);
    byEnd[i] = i;
  });
  return { over, byEnd: byEnd.sort((a, b) => over[a] - over[b]) };
}
