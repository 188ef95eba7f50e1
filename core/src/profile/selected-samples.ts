import { lowerBound } from '../binary-search';
import type { Profile } from './model';
import type { ShapedTree } from './shape';
import type { SampleSelection } from './slice';

/** A sample within a selection, cut to it. */
export interface SelectedSample {
  /** Node of the shaped tree. */
  node: number;
  timeNs: number;
  weightNs: number;
}

/** The samples of a selection in time order; those that shaping leaves out, and idle ones unless asked for, are passed over. */
export function* samplesIn(
  { sampleNode, sampleTime, sampleWeight, sampleThread, nodeFrame, frames, durationNs }: Profile,
  { spans, thread, includeIdle }: SampleSelection,
  tree: ShapedTree
): Generator<SelectedSample> {
  const cuts = spans ?? Float64Array.of(0, durationNs > 0 ? durationNs : Infinity);
  // Without times the samples follow one another as long as they weigh.
  let clock = 0;
  for (let cut = 0; cut < cuts.length; cut += 2) {
    const [from, to] = [cuts[cut], cuts[cut + 1]];
    const first = durationNs > 0 ? Math.max(0, lowerBound(sampleTime, from) - 1) : 0;
    for (let i = first; i < sampleNode.length && sampleTime[i] < to; i++) {
      const node = tree.nodeOf[sampleNode[i]];
      if (node < 0 || (thread >= 0 && sampleThread && sampleThread[i] !== thread)) continue;
      if (!includeIdle && frames[nodeFrame[sampleNode[i]]].kind === 'idle') continue;
      const begin = durationNs > 0 ? Math.max(from, sampleTime[i]) : clock;
      const end = durationNs > 0 ? Math.min(to, sampleTime[i] + sampleWeight[i]) : begin + sampleWeight[i];
      if (end <= begin) continue;
      clock = end;
      yield { node, timeNs: begin, weightNs: end - begin };
    }
  }
}
