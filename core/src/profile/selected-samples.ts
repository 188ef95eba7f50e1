import { lowerBound } from '../binary-search';
import type { Profile } from './model';
import type { ShapedTree } from './shape';
import { longest, othersOf, type SampleSelection } from './slice';

/** A sample within a selection, cut to it. */
export interface SelectedSample {
  /** Its number in the profile. */
  sample: number;
  /** Node of the shaped tree. */
  node: number;
  timeNs: number;
  weightNs: number;
}

/** The samples of a selection in time order; those that shaping leaves out, and idle ones unless asked for, are passed over. */
export function* samplesIn(
  profile: Profile,
  selection: SampleSelection,
  tree: ShapedTree
): Generator<SelectedSample> {
  const { sampleNode, sampleTime, sampleWeight, sampleThread, nodeFrame, frames, durationNs } = profile;
  const { spans, includeIdle } = selection;
  const isOther = othersOf(profile, selection);
  const cuts = spans ?? Float64Array.of(0, durationNs > 0 ? durationNs : Infinity);
  const reach = sampleThread ? longest(sampleWeight) : 0;
  // Without times the samples follow one another as long as they weigh.
  let clock = 0;
  for (let cut = 0; cut < cuts.length; cut += 2) {
    const [from, to] = [cuts[cut], cuts[cut + 1]];
    // Samples of several threads overlap: an earlier one may reach in.
    const first = durationNs > 0 ? Math.max(0, lowerBound(sampleTime, from - reach) - 1) : 0;
    for (let i = first; i < sampleNode.length && sampleTime[i] < to; i++) {
      const node = tree.nodeOf[sampleNode[i]];
      if (node < 0 || isOther?.(i)) continue;
      if (!includeIdle && frames[nodeFrame[sampleNode[i]]].kind === 'idle') continue;
      const begin = durationNs > 0 ? Math.max(from, sampleTime[i]) : clock;
      const end = durationNs > 0 ? Math.min(to, sampleTime[i] + sampleWeight[i]) : begin + sampleWeight[i];
      if (end <= begin) continue;
      clock = end;
      yield { sample: i, node, timeNs: begin, weightNs: end - begin };
    }
  }
}
