import type { StackTree } from './model';
import type { Slice } from './slice';

/** A tree read from the leaves: node 0 stands for everything, below it the functions, below each its callers. */
export interface CallersTree extends StackTree {
  weights: Slice;
  /** Weight of the branches that were too light to be opened. */
  unopened: number;
}

/** Branches lighter than this part of everything are not opened: they could not be seen. */
export const CALLERS_MIN_SHARE = 1 / 5000;
/** Callers beyond are not followed. */
const MAX_DEPTH = 400;

/**
 * Reads a weighed tree from the leaves: each function by the weight it has itself, below it who called it. Where a function
 * is given, only that one, by its total: every call of it counts, a call within itself once.
 */
export function callersTree(tree: StackTree, weights: Slice, only = -1): CallersTree {
  const { nodeFrame, nodeParent, nodeOutermost } = tree;
  const least = weights.sum * CALLERS_MIN_SHARE;
  const frame = [nodeFrame[0] ?? 0];
  const parent = [-1];
  const total = [0];
  let unopened = 0;
  /** Of each open node: where in the tree its stacks go on, and what they weigh. */
  let open: { at: number; nodes: number[]; weight: number[] }[] = [];
  const first = new Map<number, { nodes: number[]; weight: number[] }>();
  for (let node = 1; node < nodeFrame.length; node++) {
    const own = nodeFrame[node];
    const weight =
      only < 0 ? weights.self[node] : own === only && nodeOutermost[node] ? weights.total[node] : 0;
    if (weight > 0) put(first, own, nodeParent[node], weight);
  }
  const add = (above: number, groups: Map<number, { nodes: number[]; weight: number[] }>): void => {
    for (const [own, group] of groups) {
      const sum = group.weight.reduce((a, b) => a + b, 0);
      if (sum < least) {
        unopened += sum;
        continue;
      }
      frame.push(own);
      parent.push(above);
      total.push(sum);
      open.push({ at: frame.length - 1, ...group });
    }
  };
  add(0, first);
  for (let depth = 0; open.length > 0 && depth < MAX_DEPTH; depth++) {
    const level = open;
    open = [];
    for (const { at, nodes, weight } of level) {
      const groups = new Map<number, { nodes: number[]; weight: number[] }>();
      for (let i = 0; i < nodes.length; i++)
        if (nodes[i] > 0) put(groups, nodeFrame[nodes[i]], nodeParent[nodes[i]], weight[i]);
      add(at, groups);
    }
  }
  const sum = [...first.values()].reduce((all, group) => all + group.weight.reduce((a, b) => a + b, 0), 0);
  total[0] = sum;
  const totals = Float64Array.from(total);
  // What a function burns itself stands at its first place; the callers above only pass it on.
  const self = Float64Array.from(total, (weight, node) => (parent[node] === 0 ? weight : 0));
  if (only >= 0 && parent.length > 1) {
    self[1] = 0;
    for (let node = 0; node < nodeFrame.length; node++)
      if (nodeFrame[node] === only) self[1] += weights.self[node];
  }
  return {
    nodeFrame: Int32Array.from(frame),
    nodeParent: Int32Array.from(parent),
    // A function may stand above itself here; its own weight is asked for by its first place only.
    nodeOutermost: Uint8Array.from(parent, (above) => (above === 0 ? 1 : 0)),
    weights: { ...weights, self, total: totals, sum },
    unopened
  };
}

/** Stacks that go on at the same node are one. */
function put(
  groups: Map<number, { nodes: number[]; weight: number[] }>,
  key: number,
  node: number,
  weight: number
): void {
  let group = groups.get(key);
  if (!group) groups.set(key, (group = { nodes: [], weight: [] }));
  const last = group.nodes.length - 1;
  if (last >= 0 && group.nodes[last] === node) group.weight[last] += weight;
  else {
    group.nodes.push(node);
    group.weight.push(weight);
  }
}
