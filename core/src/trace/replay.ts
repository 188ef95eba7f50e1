import { CLOCK_STEP_NS } from './clock-step';
import { subtree } from './requests';
import type { TraceTree } from './tree';

/** When the nodes of a request would run. Nanoseconds from the request's start. */
export interface ReplayedTimes {
  durationNs: number;
  start: Map<number, number>;
  end: Map<number, number>;
}

/**
 * A request that can be run again with some spans taking another time: every other gap and order is kept. A span starts
 * as long after the last sibling that had ended as it did; its parent ends as long after the last of its children as it
 * did, also of those inside a child that outlives it. So a parallel branch that becomes the longest is seen. What no edit
 * changes is worked out once.
 * Assumption: whatever started or ended after something ended waited for it.
 */
export class Replay {
  readonly #tree: TraceTree;
  readonly #listed: () => readonly number[];
  /** Parents before children; the root is the first. */
  #nodes: readonly number[] = [];
  /** Where each of them stands in that list, and durations as they were, by place: worked out by the first run, since most requests have none. */
  #place = new Map<number, number>();
  #was = new Float64Array();
  readonly #ends = new Map<number, Ends>();

  /**
   * @param nodes the request's nodes, itself first, parents before children. An inner request may stand for all that is below it, as long as no
   * edit touches what it leaves out.
   */
  constructor(tree: TraceTree, root: number, nodes: () => readonly number[] = () => subtree(tree, root)) {
    this.#tree = tree;
    this.#listed = nodes;
  }

  #prepare(): void {
    if (this.#nodes.length > 0) return;
    const { start, end } = this.#tree;
    this.#nodes = this.#listed();
    this.#was = new Float64Array(this.#nodes.length);
    this.#nodes.forEach((node, place) => {
      this.#place.set(node, place);
      this.#was[place] = end[node] - start[node];
    });
  }

  /**
   * The duration the request would have, nanoseconds.
   * @param durations node → its new duration in nanoseconds; what runs inside such a node is not replayed.
   */
  durationNs(durations: ReadonlyMap<number, number>): number {
    return this.#run(durations).duration[0];
  }

  /** Where every span would lie after the same replay. What runs inside an edited node is drawn together with its start. */
  times(durations: ReadonlyMap<number, number>): ReplayedTimes {
    const { duration, begins } = this.#run(durations);
    const { children, start: was } = this.#tree;
    const start = new Map<number, number>([[this.#nodes[0], 0]]);
    const end = new Map<number, number>();
    this.#nodes.forEach((node, place) => {
      const from = start.get(node)!;
      end.set(node, from + duration[place]);
      for (const child of children[node]) {
        const replayed = begins[this.#place.get(child)!];
        const begin = Number.isNaN(replayed) ? was[child] - was[node] : replayed;
        start.set(child, from + Math.min(begin, duration[place]));
      }
    });
    return { durationNs: duration[0], start, end };
  }

  #run(durations: ReadonlyMap<number, number>): Run {
    this.#prepare();
    const { parent } = this.#tree;
    const size = this.#was.length;
    const run: Run = { duration: this.#was.slice(), begins: new Float64Array(size).fill(NaN) };
    /** Nodes with an edit in them; what no edit reaches keeps its duration to the nanosecond. */
    const touched = new Uint8Array(size);
    for (const node of durations.keys()) {
      const place = this.#place.get(node);
      if (place !== undefined) touched[place] = 1;
    }
    // Children come before their parents.
    for (let place = size - 1; place >= 0; place--) {
      if (touched[place] === 0) continue;
      const node = this.#nodes[place];
      run.duration[place] = durations.get(node) ?? this.#replayOne(run, node, place);
      const above = this.#place.get(parent[node]);
      if (above !== undefined) touched[above] = 1;
    }
    return run;
  }

  #replayOne({ duration, begins }: Run, node: number, place: number): number {
    const { start, end, children } = this.#tree;
    const byStart = children[node];
    if (byStart.length === 0) return this.#was[place];
    const { over, byEnd, places, outliving } = this.#endsOf(node);
    /** Children before this place have begun anew. */
    let begun = 0;
    let ended = 0;
    let gate = start[node];
    let newGate = 0;
    const passGates = (until: number): void => {
      while (ended < byEnd.length && over[byEnd[ended]] <= until && byEnd[ended] < begun) {
        const child = places[byEnd[ended]];
        gate = Math.max(gate, end[byStart[byEnd[ended]]]);
        newGate = Math.max(newGate, begins[child] + duration[child]);
        ended++;
      }
    };
    for (const child of byStart) {
      passGates(start[child]);
      // None begins before its parent that did not before.
      const earliest = Math.min(0, start[child] - start[node]);
      begins[places[begun]] = Math.max(earliest, newGate + start[child] - gate);
      begun++;
    }
    passGates(end[node]);
    for (const child of outliving) {
      this.#endedInside(
        child,
        begins[this.#place.get(child)!],
        end[node],
        { duration, begins },
        (was, now) => {
          gate = Math.max(gate, was);
          newGate = Math.max(newGate, now);
        }
      );
    }
    return Math.max(0, newGate + end[node] - gate);
  }

  /**
   * Tells of everything that has ended inside a node by an instant at which the node itself goes on: when it ended, and when it would now,
   * from the start of the node's parent.
   */
  #endedInside(
    node: number,
    begin: number,
    until: number,
    { duration, begins }: Run,
    ended: (was: number, now: number) => void
  ): void {
    const { start, end, children } = this.#tree;
    const open: [node: number, begin: number, depth: number][] = [[node, begin, 1]];
    for (let next = open.pop(); next; next = open.pop()) {
      const [parent, from, depth] = next;
      for (const child of children[parent]) {
        const place = this.#place.get(child);
        if (start[child] >= until || place === undefined) continue;
        const replayed = begins[place];
        const now = from + (Number.isNaN(replayed) ? start[child] - start[parent] : replayed);
        if (overAt(this.#tree, child) <= until) ended(end[child], now + duration[place]);
        else if (depth < MOST_OUTLIVING) open.push([child, now, depth + 1]);
      }
    }
  }

  #endsOf(node: number): Ends {
    let ends = this.#ends.get(node);
    if (!ends) {
      const places = this.#tree.children[node].map((child) => this.#place.get(child)!);
      this.#ends.set(node, (ends = { ...endsOf(this.#tree, node), places }));
    }
    return ends;
  }
}

/**
 * Spans inside each other that are looked into when all of them outlive what is around them. Real ones are a handful of handlers; a forged
 * trace of thousands would take the square of its depth.
 */
const MOST_OUTLIVING = 100;

/** What one run works out, by place. Nanoseconds. */
interface Run {
  duration: Float64Array;
  /** Start from the parent's; NaN where the parent was not replayed. */
  begins: Float64Array;
}

/** When the children of a node count as ended. */
interface Ends {
  /** Effective end of each child: what overlaps by a clock's step, and by no more than half of itself, counts as ended. */
  over: Float64Array;
  /** Places in the list of children, by effective end. */
  byEnd: Uint32Array;
  /** Where each child stands in the list of all nodes. */
  places: readonly number[];
  /** The children that had begun and not ended when the node ended. */
  outliving: readonly number[];
}

const overAt = ({ start, end }: TraceTree, node: number): number =>
  end[node] - Math.min(CLOCK_STEP_NS, (end[node] - start[node]) / 2);

function endsOf(tree: TraceTree, node: number): Omit<Ends, 'places'> {
  const children = tree.children[node];
  const over = Float64Array.from(children, (child) => overAt(tree, child));
  const byEnd = Uint32Array.from(children, (_, i) => i).sort((a, b) => over[a] - over[b]);
  const outliving = children.filter(
    (child, i) => tree.start[child] < tree.end[node] && over[i] > tree.end[node]
  );
  return { over, byEnd, outliving };
}
