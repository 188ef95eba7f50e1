import type { Profile } from './model';

/** How busy the process was over time: for each of `bins` equal spans, the share (0 to 1) of it that was not idle. */
export function cpuStrip(profile: Profile, bins: number): Float32Array {
  const busy = new Float64Array(bins);
  const { sampleNode, sampleTime, sampleWeight, nodeFrame, frames, durationNs } = profile;
  if (durationNs <= 0) return new Float32Array(bins);
  const size = durationNs / bins;
  for (let i = 0; i < sampleNode.length; i++) {
    if (frames[nodeFrame[sampleNode[i]]].kind === 'idle') continue;
    const begin = sampleTime[i];
    const finish = begin + sampleWeight[i];
    const last = Math.min(bins - 1, Math.floor(finish / size));
    for (let bin = Math.min(bins - 1, Math.floor(begin / size)); bin <= last; bin++) {
      const inside = Math.min(finish, (bin + 1) * size) - Math.max(begin, bin * size);
      if (inside > 0) busy[bin] += inside;
    }
  }
  return Float32Array.from(busy, (value) => value / size);
}
