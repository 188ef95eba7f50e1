import type { HeapGraph } from './graph';

type Graph = Pick<HeapGraph, 'count' | 'edgeStart' | 'edgeTo' | 'roots'>;

/**
 * Immediate dominators from a super-root over the roots: the object that all ways to another lead through. The super-root is
 * `count`; an object that no way leads to has −1.
 * Semi-NCA (Georgiadis, Tarjan, Werneck 2006: "Finding dominators in practice"), by numbers of a depth-first walk, with no recursion:
 * chains may be millions long.
 */
export interface Dominators {
  /** Object → its immediate dominator; `count` for the super-root, −1 for objects that cannot be reached. */
  idom: Int32Array;
  /** Objects reached, in the order of the walk; parents of the dominator tree come before their children. */
  order: Uint32Array;
}

export function dominators(graph: Graph): Dominators {
  const { count } = graph;
  // Numbers of the walk: 0 is the super-root.
  const number = new Int32Array(count).fill(-1);
  const vertex = new Uint32Array(count + 1);
  const parent = new Uint32Array(count + 1);
  const reached = walk(graph, number, vertex, parent);
  const size = reached + 1;
  const { predStart, pred } = predecessors(graph, number, size);
  const semi = new Uint32Array(size);
  const label = new Uint32Array(size);
  const ancestor = parent.slice(0, size);
  for (let v = 0; v < size; v++) semi[v] = label[v] = v;
  const path = new PathStack();
  // Semidominators, from the last of the walk to the first; `ancestor` below w is still the walk's parent: not linked yet.
  for (let w = size - 1; w > 0; w--) {
    let best = parent[w];
    for (let i = predStart[w]; i < predStart[w + 1]; i++) {
      const v = pred[i];
      // Linked are those after w: only they are evaluated.
      const candidate = v <= w ? v : semi[evaluate(v, w, ancestor, label, semi, path)];
      if (candidate < best) best = candidate;
    }
    semi[w] = best;
  }
  // The nearest common ancestor of the parent and the semidominator, along dominators that are known already.
  const dom = ancestor;
  dom.set(parent.subarray(0, size));
  for (let w = 1; w < size; w++) {
    let at = parent[w];
    while (at > semi[w]) at = dom[at];
    dom[w] = at;
  }
  const idom = new Int32Array(count).fill(-1);
  const order = new Uint32Array(reached);
  for (let w = 1; w < size; w++) {
    order[w - 1] = vertex[w];
    idom[vertex[w]] = dom[w] === 0 ? count : vertex[dom[w]];
  }
  return { idom, order };
}

class PathStack {
  items = new Uint32Array(1024);
  length = 0;
  push(value: number): void {
    if (this.length === this.items.length) {
      const wider = new Uint32Array(this.items.length * 2);
      wider.set(this.items);
      this.items = wider;
    }
    this.items[this.length++] = value;
  }
}

/** The vertex of least semidominator on the linked way up from v, the way being shortened meanwhile. Linked are vertices after `w`. */
function evaluate(
  v: number,
  w: number,
  ancestor: Uint32Array,
  label: Uint32Array,
  semi: Uint32Array,
  path: PathStack
): number {
  // Up to the vertex whose ancestor is not linked: it is the root of its tree of the forest.
  path.length = 0;
  let at = v;
  while (ancestor[at] > w) {
    path.push(at);
    at = ancestor[at];
  }
  for (let i = path.length - 1; i >= 0; i--) {
    const node = path.items[i];
    const above = ancestor[node];
    if (semi[label[above]] < semi[label[node]]) label[node] = label[above];
    ancestor[node] = ancestor[above];
  }
  return label[v];
}

/** Depth-first numbers; gives how many objects were reached. Reaches them in the order a recursive walk would. */
function walk(
  { count, edgeStart, edgeTo, roots }: Graph,
  number: Int32Array,
  vertex: Uint32Array,
  parent: Uint32Array
): number {
  let reached = 0;
  // The next edge of each object on the way down; the way itself goes by parents.
  const cursor = new Uint32Array(count);
  for (let r = 0; r < roots.length; r++) {
    if (number[roots[r]] >= 0) continue;
    let at = roots[r];
    number[at] = ++reached;
    vertex[reached] = at;
    parent[reached] = 0;
    cursor[at] = edgeStart[at];
    for (;;) {
      const end = edgeStart[at + 1];
      let next = -1;
      while (cursor[at] < end) {
        const to = edgeTo[cursor[at]++];
        if (number[to] < 0) {
          next = to;
          break;
        }
      }
      if (next >= 0) {
        const above = number[at];
        number[next] = ++reached;
        vertex[reached] = next;
        parent[reached] = above;
        cursor[next] = edgeStart[next];
        at = next;
      } else {
        const up = parent[number[at]];
        if (up === 0) break;
        at = vertex[up];
      }
    }
  }
  return reached;
}

/** Who refers to each vertex, by numbers of the walk. References from roots come from 0. */
function predecessors(
  { count, edgeStart, edgeTo, roots }: Graph,
  number: Int32Array,
  size: number
): { predStart: Uint32Array; pred: Uint32Array } {
  const predStart = new Uint32Array(size + 1);
  for (let from = 0; from < count; from++) {
    if (number[from] < 0) continue;
    for (let i = edgeStart[from]; i < edgeStart[from + 1]; i++) predStart[number[edgeTo[i]]]++;
  }
  for (let r = 0; r < roots.length; r++) predStart[number[roots[r]]]++;
  let sum = 0;
  for (let v = 0; v <= size; v++) {
    const here = predStart[v];
    predStart[v] = sum;
    sum += here;
  }
  const pred = new Uint32Array(sum);
  for (let r = 0; r < roots.length; r++) pred[predStart[number[roots[r]]]++] = 0;
  for (let from = 0; from < count; from++) {
    const v = number[from];
    if (v < 0) continue;
    for (let i = edgeStart[from]; i < edgeStart[from + 1]; i++) pred[predStart[number[edgeTo[i]]]++] = v;
  }
  // Each start moved to its end meanwhile: the start is the end of the one before.
  for (let v = size; v > 0; v--) predStart[v] = predStart[v - 1];
  predStart[0] = 0;
  return { predStart, pred };
}
