import type { Profile } from './model';
import type { ShapedTree } from './shape';

/** Which samples count. */
export interface SampleSelection {
  /** Nanoseconds from the start of the profile, begin and end by turns, sorted and apart; null for all. A sample counts with its part inside. */
  spans: Float64Array | null;
  /** Index of a thread; −1 for all. */
  thread: number;
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
  let idle = 0;
  for (let node = 0; node < nodeFrame.length; node++) {
    if (frames[nodeFrame[node]].kind !== 'idle') continue;
    idle += weights[node];
    if (!selection.includeIdle) weights[node] = 0;
  }
  let self = weights;
  if (tree) {
    self = new Float64Array(tree.nodeFrame.length);
    for (let node = 0; node < weights.length; node++)
      if (tree.nodeOf[node] >= 0) self[tree.nodeOf[node]] += weights[node];
  }
  const parents = tree?.nodeParent ?? profile.nodeParent;
  const total = Float64Array.from(self);
  for (let node = total.length - 1; node > 0; node--) total[parents[node]] += total[node];
  return { self, total, sum: total.length > 0 ? total[0] : 0, idle, samples };
}

/** Adds the weight of each selected sample to its node. @returns how many were selected, in part or whole. */
function weighSamples(profile: Profile, { spans, thread }: SampleSelection, into: Float64Array): number {
  const { sampleNode, sampleTime, sampleWeight, sampleThread, durationNs } = profile;
  const count = sampleNode.length;
  const whole = !spans || (spans.length === 2 && spans[0] <= 0 && spans[1] >= durationNs);
  if (whole && (thread < 0 || !sampleThread)) {
    // The common case, without a comparison for each sample.
    for (let i = 0; i < count; i++) into[sampleNode[i]] += sampleWeight[i];
    return count;
  }
  const isOther = (i: number): boolean => thread >= 0 && sampleThread !== null && sampleThread[i] !== thread;
  let samples = 0;
  if (whole) {
    for (let i = 0; i < count; i++) {
      if (isOther(i)) continue;
      into[sampleNode[i]] += sampleWeight[i];
      samples++;
    }
    return samples;
  }
  // Samples of several threads overlap: the longest says how far back one may begin and still reach in.
  const reach = sampleThread ? longest(sampleWeight) : 0;
  for (let span = 0; span < spans.length; span += 2) {
    const [from, to] = [spans[span], spans[span + 1]];
    const first = sampleThread ? lowerBound(sampleTime, from - reach) : lowerBound(sampleTime, from) - 1;
    for (let i = Math.max(0, first); i < count; i++) {
      const begin = sampleTime[i];
      if (begin >= to) break;
      if (isOther(i)) continue;
      const inside = Math.min(begin + sampleWeight[i], to) - Math.max(begin, from);
      if (inside <= 0 && begin < from) continue;
      into[sampleNode[i]] += inside;
      samples++;
    }
  }
  return samples;
}

function longest(weights: Float64Array): number {
  let most = 0;
  for (let i = 0; i < weights.length; i++) if (weights[i] > most) most = weights[i];
  return most;
}

/** The first index whose value is at least `value`. */
export function lowerBound(sorted: Float64Array, value: number): number {
  let low = 0;
  let high = sorted.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (sorted[middle] < value) low = middle + 1;
    else high = middle;
  }
  return low;
}
