import type { Frame, StackTree } from './model';
import type { Slice } from './slice';
import { deepestRecursion, linksOf } from './stack-tree';

/** One function within a slice. */
export interface FunctionWeight {
  /** Index into the profile's frames. */
  frame: number;
  /** Weight of samples whose leaf it is. */
  self: number;
  /** Weight of samples in which it appears at least once. */
  total: number;
}

/** Functions with weight, by self, then by total. */
export function functionWeights(
  frames: readonly Frame[],
  { nodeFrame, nodeOutermost }: StackTree,
  weights: Slice
): FunctionWeight[] {
  const self = new Float64Array(frames.length);
  const total = new Float64Array(frames.length);
  for (let node = 0; node < nodeFrame.length; node++) {
    self[nodeFrame[node]] += weights.self[node];
    if (nodeOutermost[node]) total[nodeFrame[node]] += weights.total[node];
  }
  const functions: FunctionWeight[] = [];
  for (let frame = 0; frame < frames.length; frame++) {
    if (total[frame] > 0 && frames[frame].kind !== 'root')
      functions.push({ frame, self: self[frame], total: total[frame] });
  }
  return functions.sort((a, b) => b.self - a.self || b.total - a.total || a.frame - b.frame);
}

/** How deep each function stands in itself at most, over the whole tree: 1 for no recursion. By frame. */
export function maxRecursion(frames: readonly Frame[], { nodeFrame, nodeParent }: StackTree): Int32Array {
  return deepestRecursion(nodeFrame, nodeParent, frames.length);
}

/** A child must weigh at least this part of its parent to carry the heaviest branch on. */
export const BRANCH_MIN_SHARE = 1 / 3;

/** From a node down, always the child that weighs most, while it is at least a third of its parent. Nodes, the given one first. */
export function heaviestBranch(
  tree: Pick<StackTree, 'nodeParent'>,
  weights: Pick<Slice, 'total'>,
  from = 0
): number[] {
  const { firstChild, nextSibling } = linksOf(tree.nodeParent);
  const branch = [from];
  for (let node = from; ;) {
    let best = -1;
    for (let child = firstChild[node]; child >= 0; child = nextSibling[child]) {
      if (best < 0 || weights.total[child] > weights.total[best]) best = child;
    }
    if (best < 0 || weights.total[best] <= 0 || weights.total[best] < BRANCH_MIN_SHARE * weights.total[node])
      return branch;
    branch.push(best);
    node = best;
  }
}
