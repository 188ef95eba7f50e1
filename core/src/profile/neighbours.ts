import type { StackTree } from './model';
import type { Slice } from './slice';
import { walkTree } from './stack-tree';

/** A function beside another: weight of the samples in which the one calls the other at least once. */
export interface Neighbour {
  frame: number;
  weight: number;
}

export interface Neighbours {
  frame: number;
  self: number;
  total: number;
  callers: Neighbour[];
  callees: Neighbour[];
}

/**
 * One function with all its callers and all its callees, heaviest first. A sample counts once for each caller and each callee,
 * however often the call stands in its stack.
 */
export function neighboursOf(tree: StackTree, weights: Slice, frame: number): Neighbours {
  const { nodeFrame, nodeParent, nodeOutermost } = tree;
  const callers = new Map<number, number>();
  const callees = new Map<number, number>();
  let self = 0;
  let total = 0;
  /** How often each call stands in the stack above. */
  const calling = new Map<number, number>();
  const called = new Map<number, number>();
  const step = (node: number, by: 1 | -1): void => {
    const above = nodeParent[node];
    if (above < 0) return;
    if (nodeFrame[node] === frame) meet(calling, callers, nodeFrame[above], weights.total[node], by);
    if (nodeFrame[above] === frame) meet(called, callees, nodeFrame[node], weights.total[node], by);
  };
  walkTree(
    nodeParent,
    (node) => {
      step(node, 1);
      if (nodeFrame[node] !== frame) return;
      self += weights.self[node];
      if (nodeOutermost[node]) total += weights.total[node];
    },
    (node) => step(node, -1)
  );
  return { frame, self, total, callers: sorted(callers), callees: sorted(callees) };
}

function meet(
  open: Map<number, number>,
  sums: Map<number, number>,
  key: number,
  weight: number,
  by: 1 | -1
): void {
  const before = open.get(key) ?? 0;
  open.set(key, before + by);
  if (by === 1 && before === 0) sums.set(key, (sums.get(key) ?? 0) + weight);
}

const sorted = (sums: Map<number, number>): Neighbour[] =>
  [...sums]
    .map(([frame, weight]) => ({ frame, weight }))
    .filter(({ weight }) => weight > 0)
    .sort((a, b) => b.weight - a.weight || a.frame - b.frame);
