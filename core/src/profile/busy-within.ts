import type { Profile } from './model';
import { lowerBound } from '../binary-search';
import { samplesByThread } from './samples-by-thread';

/**
 * How much the process computed in each of many stretches of time: the weight of samples that were not idle.
 * @param stretches begin and end by turns, nanoseconds from the start; they may overlap.
 */
export function busyWithin(profile: Profile, stretches: Float64Array): Float64Array {
  const busy = new Float64Array(stretches.length / 2);
  for (const samples of samplesByThread(profile)) addBusy(profile, samples, stretches, busy);
  return busy;
}

function addBusy(
  { sampleNode, sampleTime, sampleWeight, nodeFrame, frames }: Profile,
  samples: Uint32Array,
  stretches: Float64Array,
  busy: Float64Array
): void {
  const count = samples.length;
  const times = Float64Array.from(samples, (i) => sampleTime[i]);
  const idle = (i: number): boolean => frames[nodeFrame[sampleNode[i]]].kind === 'idle';
  /** Busy weight of the samples before each one. */
  const before = new Float64Array(count + 1);
  samples.forEach((sample, i) => (before[i + 1] = before[i] + (idle(sample) ? 0 : sampleWeight[sample])));
  const until = (time: number): number => {
    const next = lowerBound(times, time);
    if (next === 0) return 0;
    const last = samples[next - 1];
    const inside = Math.min(sampleWeight[last], time - sampleTime[last]);
    return before[next - 1] + (idle(last) ? 0 : inside);
  };
  for (let i = 0; i < busy.length; i++)
    busy[i] += Math.max(0, until(stretches[2 * i + 1]) - until(stretches[2 * i]));
}

/** Stretches sorted and joined where they meet, cut to a window: what a selection of several is made of. */
export function unionOf(
  stretches: readonly { fromNs: number; toNs: number }[],
  fromNs: number,
  toNs: number
): Float64Array {
  const sorted = stretches
    .map((one) => ({ from: Math.max(fromNs, one.fromNs), to: Math.min(toNs, one.toNs) }))
    .filter(({ from, to }) => to > from)
    .sort((a, b) => a.from - b.from);
  const joined: number[] = [];
  for (const { from, to } of sorted) {
    if (joined.length > 0 && from <= joined[joined.length - 1])
      joined[joined.length - 1] = Math.max(joined[joined.length - 1], to);
    else joined.push(from, to);
  }
  return Float64Array.from(joined);
}
