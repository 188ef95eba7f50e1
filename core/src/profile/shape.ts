import type { Frame, FrameKind, Profile, StackTree } from './model';
import { StackBuilder } from './stack-builder';
import { walkTree } from './stack-tree';

/** Which frames an act is about. */
export type Target =
  { by: 'frame'; frame: number } | { by: 'package'; package: string } | { by: 'kind'; kind: FrameKind };

/**
 * What is done to the stacks before they are weighed. `hide` leaves out every stack that runs through the target;
 * `fold` takes its frames out of the stacks, so that their weight falls to the caller; `only` keeps the stacks through it.
 */
export interface Act {
  act: 'hide' | 'fold' | 'only';
  target: Target;
}

export interface Shaping {
  acts: readonly Act[];
  /** The function whose calls are merged into one tree, as the new whole; −1 for none. */
  root: number;
  /** Calls of a function within itself are put to the outermost call. */
  foldRecursion: boolean;
}

export const UNSHAPED: Shaping = { acts: [], root: -1, foldRecursion: false };

/** A tree of the stacks after shaping. */
export interface ShapedTree extends StackTree {
  /** Node of the profile → node here; −1 where its samples are left out. */
  nodeOf: Int32Array;
}

/** True for frames an act is about. */
export function targets(frame: Frame, index: number, target: Target): boolean {
  if (target.by === 'frame') return index === target.frame;
  if (target.by === 'package') return frame.kind === 'dependency' && frame.package === target.package;
  return frame.kind === target.kind;
}

/**
 * Shapes the stacks of a profile. One walk over its nodes, without recursion, however deep the stacks are; equal stacks are
 * merged again afterwards. The profile itself is given back where nothing is to be done.
 */
export function shape(profile: Profile, { acts, root, foldRecursion }: Shaping): ShapedTree {
  const { nodeFrame, nodeParent, nodeOutermost, frames } = profile;
  if (acts.length === 0 && root < 0 && !foldRecursion)
    return { nodeFrame, nodeParent, nodeOutermost, nodeOf: Int32Array.from(nodeFrame, (_, node) => node) };
  const marks = markFrames(frames, acts);
  const builder = new StackBuilder(root >= 0 ? root : nodeFrame[0]);
  const nodeOf = new Int32Array(nodeFrame.length).fill(-1);
  const wanted = new Int32Array(nodeFrame.length);
  /** Where each function on the path was placed last; −1 where it does not run. */
  const placed = new Int32Array(frames.length).fill(-1);
  const restore = new Int32Array(nodeFrame.length).fill(-1);
  const place = new Int32Array(nodeFrame.length).fill(-1);
  walkTree(
    nodeParent,
    (node, parent) => {
      const frame = nodeFrame[node];
      const above = parent >= 0 ? place[parent] : -1;
      restore[node] = placed[frame];
      wanted[node] = (parent >= 0 ? wanted[parent] : 0) | marks.only[frame];
      if (marks.hidden[frame] || (parent >= 0 && wanted[parent] < 0)) wanted[node] = -1;
      const isWhole = root >= 0 ? above < 0 && frame === root : node === 0;
      if (isWhole) place[node] = 0;
      else if (above < 0) place[node] = -1;
      else if (marks.folded[frame]) place[node] = above;
      else if (foldRecursion && placed[frame] >= 0) place[node] = placed[frame];
      else place[node] = builder.child(above, frame);
      if (place[node] >= 0 && !marks.folded[frame]) placed[frame] = place[node];
      nodeOf[node] = wanted[node] === marks.all ? place[node] : -1;
    },
    (node) => (placed[nodeFrame[node]] = restore[node])
  );
  return { ...builder.tree(frames.length), nodeOf };
}

interface Marks {
  hidden: Uint8Array;
  folded: Uint8Array;
  /** One bit for each `only`. */
  only: Int32Array;
  /** What a stack must have met. */
  all: number;
}

/** More acts of one kind than anyone makes by hand; a bit stands for each. */
export const MAX_ONLY = 30;

function markFrames(frames: readonly Frame[], acts: readonly Act[]): Marks {
  const marks: Marks = {
    hidden: new Uint8Array(frames.length),
    folded: new Uint8Array(frames.length),
    only: new Int32Array(frames.length),
    all: 0
  };
  let bit = 0;
  for (const { act, target } of acts) {
    const mine = act === 'only' ? 1 << (bit++ % MAX_ONLY) : 0;
    marks.all |= mine;
    for (let i = 0; i < frames.length; i++) {
      if (!targets(frames[i], i, target)) continue;
      if (act === 'hide') marks.hidden[i] = 1;
      else if (act === 'fold') marks.folded[i] = frames[i].kind === 'root' ? 0 : 1;
      else marks.only[i] |= mine;
    }
  }
  return marks;
}
