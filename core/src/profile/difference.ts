import { changeOf, eachSide, type Side, type Sides } from '../sides';
import { FrameTable } from './frame-table';
import type { Frame, StackTree } from './model';
import type { Slice } from './slice';
import { StackBuilder } from './stack-builder';

/** One side of a comparison of profiles. */
export interface ProfileSide {
  frames: readonly Frame[];
  tree: StackTree;
  weights: Slice;
  /** What every weight is multiplied by: 1 over seconds or over requests, or 1 over the sum for shares. */
  scale: number;
}

/** Scaled weights of a side, by node of the common tree. */
export interface SideWeights {
  self: Float64Array;
  total: Float64Array;
  sum: number;
}

/** Two profiles laid over each other: equal stacks are one node. */
export interface Difference extends StackTree, Sides<SideWeights> {
  frames: Frame[];
}

/** A function on both sides. */
export interface FunctionChange extends Sides<{ self: number; total: number }> {
  /** Index into the frames of the difference. */
  frame: number;
  kind: 'new' | 'vanished' | 'both';
}

/**
 * Lays two profiles over each other. Lines move from one version to the next, so functions are the same where name and file are;
 * several of one name in a file are distinguished by their places in it.
 */
export function difference({ before, after }: Sides<ProfileSide>): Difference {
  const table = new FrameTable();
  const builder = new StackBuilder(table.root());
  const shared = sameFrames(table, { before: before.frames, after: after.frames });
  // The later side comes first: its order of calls is shown.
  const nodes = {
    after: builder.add(after.tree, shared.after),
    before: builder.add(before.tree, shared.before)
  };
  const tree = builder.tree(table.frames.length);
  const spread = ({ weights, scale }: ProfileSide, which: Side): SideWeights => {
    const self = new Float64Array(tree.nodeFrame.length);
    const total = new Float64Array(tree.nodeFrame.length);
    nodes[which].forEach((node, own) => {
      self[node] += weights.self[own] * scale;
      total[node] += weights.total[own] * scale;
    });
    return { self, total, sum: weights.sum * scale };
  };
  return { ...tree, frames: table.frames, ...eachSide({ before, after }, spread) };
}

/**
 * Numbers of the frames of each side in one table, with the places of the later side. Functions of one name in one file
 * are first matched where they stand at the very same place, the rest in their order in the file.
 */
function sameFrames(
  table: FrameTable,
  { before: earlier, after: later }: Sides<readonly Frame[]>
): Sides<Int32Array> {
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
  return { before: ofEarlier, after: ofLater };
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
  const sums = eachSide(d, (weights) => byFunction(d, weights));
  const changes: FunctionChange[] = [];
  d.frames.forEach(({ kind }, frame) => {
    const { before, after } = eachSide(sums, ({ self, total }) => ({
      self: self[frame],
      total: total[frame]
    }));
    if (kind === 'root' || (before.total === 0 && after.total === 0)) return;
    changes.push({
      frame,
      before,
      after,
      kind: before.total === 0 ? 'new' : after.total === 0 ? 'vanished' : 'both'
    });
  });
  return changes.sort((a, b) => Math.abs(selfChange(b)) - Math.abs(selfChange(a)) || a.frame - b.frame);
}

/** Change of a function’s own weight. */
export const selfChange = (change: FunctionChange): number => changeOf(change, ({ self }) => self);

/** Weights by frame; a function’s total counts where it is outermost, so that recursion counts once. */
function byFunction(
  { frames, nodeFrame, nodeOutermost }: Difference,
  weights: SideWeights
): Pick<SideWeights, 'self' | 'total'> {
  const self = new Float64Array(frames.length);
  const total = new Float64Array(frames.length);
  for (let node = 1; node < nodeFrame.length; node++) {
    self[nodeFrame[node]] += weights.self[node];
    if (nodeOutermost[node]) total[nodeFrame[node]] += weights.total[node];
  }
  return { self, total };
}
