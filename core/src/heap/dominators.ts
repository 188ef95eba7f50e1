import type { HeapGraph } from './graph';

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

/**
 * @param graph is used up: its references are numbered anew in their place, and let go of as soon as they are not needed, because
 * they are most of the memory.
 * @param reclaim called where much memory has just become free.
 */
export function dominators(graph: HeapGraph, reclaim: () => void = () => undefined): Dominators {
  const { count } = graph;
  const { vertex, parent, rootNumbers } = walk(graph);
  const size = vertex.length;
  reclaim();
  const { predStart, pred } = predecessors(graph, vertex, parent, rootNumbers);
  graph.edgeTo = graph.edgeStart = new Uint32Array();
  reclaim();
  const dom = semiNca(size, parent, predStart, pred);
  const idom = new Int32Array(count).fill(-1);
  for (let w = 1; w < size; w++) idom[vertex[w]] = dom[w] === 0 ? count : vertex[dom[w]];
  return { idom, order: vertex.subarray(1) };
}

/** The dominator of each number of the walk. */
function semiNca(size: number, parent: Uint32Array, predStart: Uint32Array, pred: Uint32Array): Uint32Array {
  const semi = new Uint32Array(size);
  const label = new Uint32Array(size);
  const ancestor = parent.slice();
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
  dom.set(parent);
  for (let w = 1; w < size; w++) {
    let at = parent[w];
    while (at > semi[w]) at = dom[at];
    dom[w] = at;
  }
  return dom;
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

interface Walk {
  /** Number of the walk → object; 0 is the super-root. */
  vertex: Uint32Array;
  /** Number of the walk → number it was reached from. */
  parent: Uint32Array;
  /** Of the roots, in their order. */
  rootNumbers: Uint32Array;
}

/** Numbers objects depth first, in the order a recursive walk would, and the references of those reached likewise. */
function walk({ count, edgeStart, edgeTo, roots }: HeapGraph): Walk {
  const number = new Uint32Array(count);
  const vertex = new Uint32Array(count + 1);
  const parent = new Uint32Array(count + 1);
  // The next edge of each object on the way down; the way itself goes by parents.
  const cursor = new Uint32Array(count);
  let reached = 0;
  for (let r = 0; r < roots.length; r++) {
    if (number[roots[r]] > 0) continue;
    let at = roots[r];
    number[at] = ++reached;
    vertex[reached] = at;
    cursor[at] = edgeStart[at];
    for (;;) {
      const end = edgeStart[at + 1];
      let next = -1;
      let edge = cursor[at];
      while (edge < end) {
        const to = edgeTo[edge++];
        if (number[to] === 0) {
          next = to;
          break;
        }
      }
      cursor[at] = edge;
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
  for (let i = 0; i < edgeTo.length; i++) edgeTo[i] = number[edgeTo[i]];
  return {
    vertex: vertex.subarray(0, reached + 1),
    parent: parent.subarray(0, reached + 1),
    rootNumbers: roots.map((root) => number[root])
  };
}

/**
 * Who refers to each number of the walk, but for the one it was reached from and itself. References from roots come from 0.
 * @param graph with references by numbers of the walk.
 */
function predecessors(
  { edgeStart, edgeTo }: HeapGraph,
  vertex: Uint32Array,
  parent: Uint32Array,
  rootNumbers: Uint32Array
): { predStart: Uint32Array; pred: Uint32Array } {
  const size = vertex.length;
  const predStart = new Uint32Array(size + 1);
  for (let v = 1; v < size; v++) {
    const end = edgeStart[vertex[v] + 1];
    for (let i = edgeStart[vertex[v]]; i < end; i++) {
      const w = edgeTo[i];
      if (parent[w] !== v && w !== v) predStart[w]++;
    }
  }
  for (let r = 0; r < rootNumbers.length; r++) if (parent[rootNumbers[r]] !== 0) predStart[rootNumbers[r]]++;
  let sum = 0;
  for (let v = 0; v <= size; v++) {
    const here = predStart[v];
    predStart[v] = sum;
    sum += here;
  }
  const pred = new Uint32Array(sum);
  for (let r = 0; r < rootNumbers.length; r++)
    if (parent[rootNumbers[r]] !== 0) pred[predStart[rootNumbers[r]]++] = 0;
  for (let v = 1; v < size; v++) {
    const end = edgeStart[vertex[v] + 1];
    for (let i = edgeStart[vertex[v]]; i < end; i++) {
      const w = edgeTo[i];
      if (parent[w] !== v && w !== v) pred[predStart[w]++] = v;
    }
  }
  // Each start moved to its end meanwhile: the start is the end of the one before.
  for (let v = size; v > 0; v--) predStart[v] = predStart[v - 1];
  predStart[0] = 0;
  return { predStart, pred };
}
