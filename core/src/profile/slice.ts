import type { Profile } from './model';

export interface SliceOptions {
  /** Nanoseconds from the start of the profile; a sample counts with the part of it that lies inside. */
  fromNs: number;
  toNs: number;
  /** Count idle samples too. */
  includeIdle: boolean;
}

/** The weights of a profile within a selection, by node. */
export interface Slice {
  self: Float64Array;
  /** Self of the node and everything below it. */
  total: Float64Array;
  /** All weight that counts: without idle unless asked. */
  sum: number;
  idle: number;
  samples: number;
}

export const WHOLE: SliceOptions = { fromNs: 0, toNs: Infinity, includeIdle: false };

/** Weighs a profile within a time selection. One pass over the samples inside, one over the nodes; allocates only the result. */
export function slice(profile: Profile, options: SliceOptions = WHOLE): Slice {
  const { sampleNode, sampleTime, sampleWeight, nodeFrame, nodeParent, frames } = profile;
  const nodes = nodeFrame.length;
  const self = new Float64Array(nodes);
  let samples = 0;
  if (options.fromNs <= 0 && options.toNs >= profile.durationNs) {
    // The common case, without a comparison for each sample.
    samples = sampleNode.length;
    for (let i = 0; i < samples; i++) self[sampleNode[i]] += sampleWeight[i];
  } else {
    for (let i = Math.max(0, lowerBound(sampleTime, options.fromNs) - 1); i < sampleNode.length; i++) {
      const begin = sampleTime[i];
      if (begin >= options.toNs) break;
      const inside = Math.min(begin + sampleWeight[i], options.toNs) - Math.max(begin, options.fromNs);
      if (inside <= 0 && begin < options.fromNs) continue;
      self[sampleNode[i]] += inside;
      samples++;
    }
  }
  let idle = 0;
  for (let node = 0; node < nodes; node++) {
    if (frames[nodeFrame[node]].kind !== 'idle') continue;
    idle += self[node];
    if (!options.includeIdle) self[node] = 0;
  }
  const total = Float64Array.from(self);
  for (let node = nodes - 1; node > 0; node--) total[nodeParent[node]] += total[node];
  return { self, total, sum: nodes > 0 ? total[0] : 0, idle, samples };
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
