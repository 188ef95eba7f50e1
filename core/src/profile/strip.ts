import type { Profile } from './model';
import type { SampleSelection } from './slice';
import { origins } from './packages';
import type { Frame } from './model';

/** How busy the process was over time: for each of `bins` equal spans, the share (0 to 1) of it that was not idle. */
export function cpuStrip(profile: Profile, bins: number): Float32Array {
  const busy = new Float64Array(bins);
  const { sampleNode, nodeFrame, frames, durationNs } = profile;
  if (durationNs <= 0) return new Float32Array(bins);
  const idle = Uint8Array.from(frames, ({ kind }) => (kind === 'idle' ? 1 : 0));
  spread(profile, bins, (i, bin, weight) => {
    if (!idle[nodeFrame[sampleNode[i]]]) busy[bin] += weight;
  });
  const size = durationNs / bins;
  return Float32Array.from(busy, (value) => value / size);
}

/** Weight by origin of code over time. */
export interface OriginsOverTime {
  origins: Pick<Frame, 'kind' | 'package'>[];
  /** Of each origin its weight in each bin. */
  weights: Float64Array[];
  binNs: number;
}

/** Where the time went by origin of code, in equal bins; the leaf of a sample says whose time it was. */
export function originsOverTime(
  profile: Profile,
  bins: number,
  { thread }: Pick<SampleSelection, 'thread'>
): OriginsOverTime {
  const { of, list } = origins(profile.frames);
  const weights = list.map(() => new Float64Array(bins));
  const { sampleNode, sampleThread, nodeFrame, durationNs } = profile;
  if (durationNs > 0) {
    spread(profile, bins, (i, bin, weight) => {
      if (thread >= 0 && sampleThread && sampleThread[i] !== thread) return;
      weights[of[nodeFrame[sampleNode[i]]]][bin] += weight;
    });
  }
  return { origins: list, weights, binNs: durationNs / bins };
}

/** Parts each sample's weight among the bins it lies in. */
function spread(
  { sampleTime, sampleWeight, durationNs }: Profile,
  bins: number,
  add: (sample: number, bin: number, weight: number) => void
): void {
  const size = durationNs / bins;
  for (let i = 0; i < sampleTime.length; i++) {
    const begin = sampleTime[i];
    const finish = begin + sampleWeight[i];
    const last = Math.min(bins - 1, Math.floor(finish / size));
    for (let bin = Math.min(bins - 1, Math.floor(begin / size)); bin <= last; bin++) {
      const inside = Math.min(finish, (bin + 1) * size) - Math.max(begin, bin * size);
      if (inside > 0) add(i, bin, inside);
    }
  }
}
