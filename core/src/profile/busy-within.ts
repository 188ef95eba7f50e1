import type { Profile } from './model';
import { lowerBound } from '../binary-search';
import { samplesByThread } from './samples-by-thread';

/**
 * How much the process computed in each of many stretches of time: the weight of samples that were not idle.
 * @param stretches begin and end by turns, nanoseconds from the start; they may overlap.
 * @param frame only of samples whose stack runs through this function; −1 for all
 */
export function busyWithin(profile: Profile, stretches: Float64Array, frame = -1): Float64Array {
  const busy = new Float64Array(stretches.length / 2);
  const counts = countedNodes(profile, frame);
  for (const samples of samplesByThread(profile)) addBusy(profile, samples, counts, stretches, busy);
  return busy;
}

/** 1 for nodes whose samples count: those that are not idle, and run through a function where one is asked for. */
function countedNodes({ nodeFrame, nodeParent, frames }: Profile, frame: number): Uint8Array {
  const through = new Uint8Array(nodeFrame.length);
  const counts = new Uint8Array(nodeFrame.length);
  for (let node = 0; node < nodeFrame.length; node++) {
    const inside = frame < 0 || nodeFrame[node] === frame || (node > 0 && through[nodeParent[node]] === 1);
    through[node] = inside ? 1 : 0;
    counts[node] = inside && frames[nodeFrame[node]].kind !== 'idle' ? 1 : 0;
  }
  return counts;
}

function addBusy(
  { sampleNode, sampleTime, sampleWeight }: Profile,
  samples: Uint32Array,
  counts: Uint8Array,
  stretches: Float64Array,
  busy: Float64Array
): void {
  const count = samples.length;
  const times = Float64Array.from(samples, (i) => sampleTime[i]);
  /** Weight of the samples before each one that count. */
  const before = new Float64Array(count + 1);
  samples.forEach(
    (sample, i) => (before[i + 1] = before[i] + counts[sampleNode[sample]] * sampleWeight[sample])
  );
  const until = (time: number): number => {
    const next = lowerBound(times, time);
    if (next === 0) return 0;
    const last = samples[next - 1];
    const inside = Math.min(sampleWeight[last], time - sampleTime[last]);
    return before[next - 1] + counts[sampleNode[last]] * inside;
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
