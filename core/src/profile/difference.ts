import { FrameTable } from './frame-table';
import type { Frame, StackTree } from './model';
import type { Slice } from './slice';
import { StackBuilder } from './stack-builder';

/** One side of a comparison. */
export interface Side {
  frames: readonly Frame[];
  tree: StackTree;
  weights: Slice;
  /** What every weight is multiplied by: 1 over seconds or over requests, or 1 over the sum for shares. */
  scale: number;
}

/** Two profiles laid over each other: equal stacks are one node. */
export interface Difference extends StackTree {
  frames: Frame[];
  beforeSelf: Float64Array;
  beforeTotal: Float64Array;
  afterSelf: Float64Array;
  afterTotal: Float64Array;
  beforeSum: number;
  afterSum: number;
}

/** A function on both sides. */
export interface FunctionChange {
  /** Index into the frames of the difference. */
  frame: number;
  before: { self: number; total: number };
  after: { self: number; total: number };
  /** Change of its own weight, after − before. */
  selfChange: number;
  totalChange: number;
  kind: 'new' | 'vanished' | 'both';
}

/**
 * Lays two profiles over each other. Lines move from one version to the next, so functions are the same where name and file are;
 * several of one name in a file are told apart by their places in it.
 */
export function difference(before: Side, after: Side): Difference {
  const table = new FrameTable();
  const builder = new StackBuilder(table.root());
  const shared = sameFrames(table, [after.frames, before.frames]);
  const nodes = [after, before].map((side, i) => builder.add(side.tree, shared[i]));
  const tree = builder.tree(table.frames.length);
  const spread = (side: Side, of: Int32Array): [Float64Array, Float64Array] => {
    const self = new Float64Array(tree.nodeFrame.length);
    const total = new Float64Array(tree.nodeFrame.length);
    for (let node = 0; node < of.length; node++) {
      self[of[node]] += side.weights.self[node] * side.scale;
      total[of[node]] += side.weights.total[node] * side.scale;
    }
    return [self, total];
  };
  const [afterSelf, afterTotal] = spread(after, nodes[0]);
  const [beforeSelf, beforeTotal] = spread(before, nodes[1]);
  return {
    ...tree,
    frames: table.frames,
    beforeSelf,
    beforeTotal,
    afterSelf,
    afterTotal,
    beforeSum: before.weights.sum * before.scale,
    afterSum: after.weights.sum * after.scale
  };
}

/**
 * Numbers of the frames of each side in one table, the later side first: its places are shown. Functions of one name in one file
 * are first matched where they stand at the very same place, the rest in their order in the file.
 */
function sameFrames(table: FrameTable, [later, earlier]: readonly (readonly Frame[])[]): Int32Array[] {
  const add = ({ name, file, line, column, kind, package: from }: Frame): number =>
    table.indexOf(name, file, line, column, { kind, package: from });
  const ofLater = Int32Array.from(later, add);
  const ofEarlier = new Int32Array(earlier.length).fill(-1);
  const groups = byName(later);
  for (const [key, own] of byName(earlier)) {
    const place = (frame: Frame): string => `${frame.line}:${frame.column}`;
    const free = new Map((groups.get(key) ?? []).map((i) => [place(later[i]), i]));
    const moved: number[] = [];
    for (const i of own) {
      const same = free.get(place(earlier[i]));
      if (same === undefined) moved.push(i);
      else {
        ofEarlier[i] = ofLater[same];
        free.delete(place(earlier[i]));
      }
    }
    const left = [...free.values()];
    for (const i of moved) {
      const next = left.shift();
      ofEarlier[i] = next === undefined ? add(earlier[i]) : ofLater[next];
    }
  }
  return [ofLater, ofEarlier];
}

/** Functions by name and file, in the order of the file. */
function byName(frames: readonly Frame[]): Map<string, number[]> {
  const groups = new Map<string, number[]>();
  const order = frames
    .map((_, i) => i)
    .sort((a, b) => frames[a].line - frames[b].line || frames[a].column - frames[b].column);
  for (const i of order) {
    const key = JSON.stringify([frames[i].name, frames[i].file]);
    groups.set(key, [...(groups.get(key) ?? []), i]);
  }
  return groups;
}

/** Functions of both sides, by how much their own weight changed. */
export function functionChanges(d: Difference): FunctionChange[] {
  const count = d.frames.length;
  const sums = Array.from({ length: 4 }, () => new Float64Array(count));
  const [beforeSelf, beforeTotal, afterSelf, afterTotal] = sums;
  for (let node = 1; node < d.nodeFrame.length; node++) {
    const frame = d.nodeFrame[node];
    beforeSelf[frame] += d.beforeSelf[node];
    afterSelf[frame] += d.afterSelf[node];
    if (!d.nodeOutermost[node]) continue;
    beforeTotal[frame] += d.beforeTotal[node];
    afterTotal[frame] += d.afterTotal[node];
  }
  const changes: FunctionChange[] = [];
  for (let frame = 0; frame < count; frame++) {
    if (d.frames[frame].kind === 'root' || (beforeTotal[frame] === 0 && afterTotal[frame] === 0)) continue;
    changes.push({
      frame,
      before: { self: beforeSelf[frame], total: beforeTotal[frame] },
      after: { self: afterSelf[frame], total: afterTotal[frame] },
      selfChange: afterSelf[frame] - beforeSelf[frame],
      totalChange: afterTotal[frame] - beforeTotal[frame],
      kind: beforeTotal[frame] === 0 ? 'new' : afterTotal[frame] === 0 ? 'vanished' : 'both'
    });
  }
  return changes.sort((a, b) => Math.abs(b.selfChange) - Math.abs(a.selfChange) || a.frame - b.frame);
}
