import { lowerBound } from '../binary-search';
import type { Profile } from './model';
import type { ShapedTree } from './shape';

/** Which samples count. */
export interface SampleSelection {
  /** Nanoseconds from the start of the profile, begin and end by turns, sorted and apart; null for all. A sample counts with its part inside. */
  spans: Float64Array | null;
  /** Index of a thread; −1 for all. */
  thread: number;
  /** Values of labels that a sample must have: indices of the label and of its value. */
  labels?: readonly { label: number; value: number }[];
  /** Count idle samples too. */
  includeIdle: boolean;
}

/** The weights of a tree within a selection, by node. */
export interface Slice {
  self: Float64Array;
  /** Self of the node and everything below it. */
  total: Float64Array;
  /** All weight that counts: without idle unless asked. */
  sum: number;
  idle: number;
  samples: number;
}

export const WHOLE: SampleSelection = { spans: null, thread: -1, includeIdle: false };

/** A selection of one stretch of time. */
export const between = (fromNs: number, toNs: number): SampleSelection => ({
  ...WHOLE,
  spans: Float64Array.of(fromNs, toNs)
});

/**
 * Weighs a profile within a selection. One pass over the samples inside, one over the nodes; allocates only the result.
 * @param tree the profile's stacks after shaping; those of the profile itself where nothing is given.
 */
export function slice(profile: Profile, selection: SampleSelection = WHOLE, tree?: ShapedTree): Slice {
  const { nodeFrame, frames } = profile;
  const weights = new Float64Array(nodeFrame.length);
  const samples = weighSamples(profile, selection, weights);
  const isIdle = Uint8Array.from(frames, ({ kind }) => (kind === 'idle' ? 1 : 0));
  let idle = 0;
  for (let node = 0; node < nodeFrame.length; node++) {
    if (isIdle[nodeFrame[node]] === 0) continue;
    idle += weights[node];
    if (!selection.includeIdle) weights[node] = 0;
  }
  let self = weights;
  // Without acts the stacks are the profile's own, node by node.
  if (tree && tree.nodeFrame !== nodeFrame) {
    self = new Float64Array(tree.nodeFrame.length);
    for (let node = 0; node < weights.length; node++)
      if (tree.nodeOf[node] >= 0) self[tree.nodeOf[node]] += weights[node];
  }
  const parents = tree?.nodeParent ?? profile.nodeParent;
  const total = self.slice();
  for (let node = total.length - 1; node > 0; node--) total[parents[node]] += total[node];
  return { self, total, sum: total.length > 0 ? total[0] : 0, idle, samples };
}

/** Adds the weight of each selected sample to its node. @returns how many were selected, in part or whole. */
function weighSamples(profile: Profile, selection: SampleSelection, into: Float64Array): number {
  const { sampleNode, sampleTime, sampleWeight, sampleThread, durationNs } = profile;
  const { spans } = selection;
  const count = sampleNode.length;
  const whole = !spans || (spans.length === 2 && spans[0] <= 0 && spans[1] >= durationNs);
  const isOther = othersOf(profile, selection);
  if (whole && !isOther) {
    // The common case, without a comparison for each sample.
    for (let i = 0; i < count; i++) into[sampleNode[i]] += sampleWeight[i];
    return count;
  }
  let samples = 0;
  if (whole) {
    for (let i = 0; i < count; i++) {
      if (isOther?.(i)) continue;
      into[sampleNode[i]] += sampleWeight[i];
      samples++;
    }
    return samples;
  }
  // Samples of several threads overlap: the longest says how far back one may begin and still reach in.
  const reach = sampleThread || isOther ? longest(sampleWeight) : 0;
  for (let span = 0; span < spans.length; span += 2) {
    const [from, to] = [spans[span], spans[span + 1]];
    const end = lowerBound(sampleTime, to);
    if (sampleThread || isOther) {
      for (let i = lowerBound(sampleTime, from - reach); i < end; i++)
        if (!isOther?.(i)) samples += addPart(profile, i, from, to, into);
      continue;
    }
    // One after another: all but the first and the last lie inside whole.
    const first = Math.max(0, lowerBound(sampleTime, from) - 1);
    for (let i = first + 1; i < end - 1; i++) into[sampleNode[i]] += sampleWeight[i];
    samples += Math.max(0, end - first - 2);
    if (end > first) samples += addPart(profile, first, from, to, into);
    if (end - 1 > first) samples += addPart(profile, end - 1, from, to, into);
  }
  return samples;
}

/** Tells samples that a selection leaves out for what they are of, not when they were; null where it leaves out none. */
export function othersOf(
  { sampleThread, labels = [] }: Profile,
  { thread, labels: wanted = [] }: Pick<SampleSelection, 'thread' | 'labels'>
): ((sample: number) => boolean) | null {
  const tests = wanted.map(({ label, value }) => ({ of: labels[label]?.sampleValue, value }));
  const byThread = thread >= 0 ? sampleThread : null;
  if (!byThread && tests.length === 0) return null;
  return (i) =>
    (byThread !== null && byThread[i] !== thread) || tests.some(({ of, value }) => of?.[i] !== value);
}

/** Adds the part of a sample that lies inside. @returns 1 where it was selected, 0 where it ended before. */
function addPart(
  { sampleNode, sampleTime, sampleWeight }: Profile,
  i: number,
  from: number,
  to: number,
  into: Float64Array
): number {
  const begin = sampleTime[i];
  const inside = Math.min(begin + sampleWeight[i], to) - Math.max(begin, from);
  if (inside <= 0 && begin < from) return 0;
  into[sampleNode[i]] += inside;
  return 1;
}

/** The greatest of some weights. */
export function longest(weights: Float64Array): number {
  let most = 0;
  for (let i = 0; i < weights.length; i++) if (weights[i] > most) most = weights[i];
  return most;
}
