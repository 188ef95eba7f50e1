import type { Frame, FrameKind, StackTree } from './model';
import type { Slice } from './slice';
import { walkTree } from './stack-tree';

/** All code of one origin: the application, one dependency, the runtime, native code, or a state of the engine. */
export interface PackageWeight {
  kind: FrameKind;
  /** Name of a dependency; '' for the others. */
  package: string;
  /** Weight of samples whose leaf is its code. */
  self: number;
  /** Weight of samples in which its code appears at least once. */
  total: number;
  /** Functions of it that appear. */
  functions: number;
}

/** A number for each origin of code, and for each frame the number of its own. */
export function origins(frames: readonly Frame[]): {
  of: Int32Array;
  list: Pick<Frame, 'kind' | 'package'>[];
} {
  const numbers = new Map<string, number>();
  const list: Pick<Frame, 'kind' | 'package'>[] = [];
  const of = Int32Array.from(frames, ({ kind, package: name }) => {
    const key = `${kind} ${name}`;
    let number = numbers.get(key);
    if (number === undefined) {
      numbers.set(key, (number = list.length));
      list.push({ kind, package: name });
    }
    return number;
  });
  return { of, list };
}

/** Weights by origin of code, by self. */
export function packageWeights(frames: readonly Frame[], tree: StackTree, weights: Slice): PackageWeight[] {
  const { of, list } = origins(frames);
  const { nodeFrame, nodeParent } = tree;
  const sums = list.map((origin) => ({ ...origin, self: 0, total: 0, functions: 0 }));
  const seen = new Uint8Array(frames.length);
  const running = new Int32Array(list.length);
  walkTree(
    nodeParent,
    (node) => {
      const frame = nodeFrame[node];
      const sum = sums[of[frame]];
      sum.self += weights.self[node];
      if (running[of[frame]]++ === 0) sum.total += weights.total[node];
      if (seen[frame] || weights.total[node] <= 0) return;
      seen[frame] = 1;
      sum.functions++;
    },
    (node) => running[of[nodeFrame[node]]]--
  );
  return sums
    .filter(({ kind, total }) => kind !== 'root' && total > 0)
    .sort((a, b) => b.self - a.self || b.total - a.total);
}
