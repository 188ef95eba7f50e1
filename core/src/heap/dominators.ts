import type { HeapGraph } from './graph';

/**
 * Immediate dominators from a super-root over the roots: the object that all paths to another lead through. The super-root is
 * `count`; an object that no path leads to has −1.
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
  const walked = walk(graph);
  const { vertex, parent, predStart } = walked;
  const size = vertex.length;
  reclaim();
  const pred = predecessors(graph, walked);
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

/** The vertex of least semidominator on the linked path up from v, which is compressed meanwhile. Linked are vertices after `w`. */
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
  /** Where those who refer to each number are to stand, but for the one it was reached from. */
  predStart: Uint32Array;
  /** Numbers of the roots that were reached from elsewhere first. */
  laterRoots: number[];
}

/**
 * Numbers objects depth first, in the order a recursive walk would. Each reference is looked at once, and becomes the number it leads to:
 * 0 where its object was reached by it, or where it leads to itself, since these decide nothing more.
 */
function walk({ count, edgeStart, edgeTo, roots }: HeapGraph): Walk {
  const number = new Uint32Array(count);
  // By numbers of the walk: they lie close to each other on the way down and up.
  const vertex = new Uint32Array(count + 1);
  const parent = new Uint32Array(count + 1);
  const cursor = new Uint32Array(count + 1);
  const referrers = new Uint32Array(count + 2);
  const laterRoots: number[] = [];
  let reached = 0;
  for (let r = 0; r < roots.length; r++) {
    const known = number[roots[r]];
    if (known > 0) {
      laterRoots.push(known);
      referrers[known]++;
      continue;
    }
    let next = roots[r];
    for (let from = 0; ;) {
      number[next] = ++reached;
      vertex[reached] = next;
      parent[reached] = from;
      let at = reached;
      let edge = edgeStart[next];
      let end = edgeStart[next + 1];
      next = -1;
      for (;;) {
        while (edge < end) {
          const to = edgeTo[edge];
          const met = number[to];
          if (met === 0) {
            edgeTo[edge++] = 0;
            next = to;
            break;
          }
          edgeTo[edge++] = met === at ? 0 : met;
          if (met !== at) referrers[met]++;
        }
        if (next >= 0) break;
        at = parent[at];
        if (at === 0) break;
        edge = cursor[at];
        end = edgeStart[vertex[at] + 1];
      }
      if (at === 0) break;
      cursor[at] = edge;
      from = at;
    }
  }
  let sum = 0;
  for (let v = 0; v <= reached + 1; v++) {
    const here = referrers[v];
    referrers[v] = sum;
    sum += here;
  }
  return {
    vertex: vertex.subarray(0, reached + 1),
    parent: parent.subarray(0, reached + 1),
    predStart: referrers.subarray(0, reached + 2),
    laterRoots
  };
}

/**
 * Who refers to each number of the walk, but for the one it was reached from. References from roots come from 0.
 * @param graph with references as the walk left them.
 */
function predecessors(
  { edgeStart, edgeTo }: HeapGraph,
  { vertex, predStart, laterRoots }: Walk
): Uint32Array {
  const size = vertex.length;
  const pred = new Uint32Array(predStart[size]);
  for (const root of laterRoots) pred[predStart[root]++] = 0;
  for (let v = 1; v < size; v++) {
    const end = edgeStart[vertex[v] + 1];
    for (let i = edgeStart[vertex[v]]; i < end; i++) {
      const w = edgeTo[i];
      if (w !== 0) pred[predStart[w]++] = v;
    }
  }
  // Each start moved to its end meanwhile: the start is the end of the one before.
  for (let v = size; v > 0; v--) predStart[v] = predStart[v - 1];
  predStart[0] = 0;
  return pred;
}
