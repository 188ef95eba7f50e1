import type { Profile } from './model';

/** How busy the process was over time: for each of `bins` equal spans, the share (0 to 1) of it that was not idle. */
export function cpuStrip(profile: Profile, bins: number): Float32Array {
  const busy = new Float64Array(bins);
  const { sampleNode, sampleTime, sampleWeight, nodeFrame, frames, durationNs } = profile;
  if (durationNs <= 0) return new Float32Array(bins);
  const size = durationNs / bins;
  for (let i = 0; i < sampleNode.length; i++) {
    if (frames[nodeFrame[sampleNode[i]]].kind === 'idle') continue;
    const finish = sampleTime[i] + sampleWeight[i];
    for (let at = sampleTime[i]; at < finish; ) {
      const bin = Math.min(bins - 1, Math.floor(at / size));
      const until = bin === bins - 1 ? finish : Math.min(finish, (bin + 1) * size);
      busy[bin] += until - at;
      if (until <= at) break;
      at = until;
    }
  }
  return Float32Array.from(busy, (value) => value / size);
}
