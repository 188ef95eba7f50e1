import { lowerBoundBy } from '../../binary-search';
import type { Frame, Profile } from '../model';
import { ownedTime, visitPieces, type OwnedStretch } from './shared-time';

/** A request that a process served while it was recorded. */
export interface ServedRequest {
  /** Number of its endpoint. */
  endpoint: number;
  /** When it began, nanoseconds from the profile's start. */
  fromNs: number;
  /** Its own stretches, begin and end by turns, nanoseconds from the profile's start. */
  own: Float64Array;
}

/** What one endpoint had of a slice. Microseconds of CPU. */
export interface EndpointShare {
  endpoint: number;
  /** Requests whose own time lies in the slice; one that lies in it with a part counts with that part. */
  requests: number;
  busyUs: number;
  /** The part of `busyUs` in which other requests had their own time too: it was divided evenly among them. */
  sharedUs: number;
  /** Stack → microseconds. */
  weights: Map<number, number>;
}

/** A few seconds of a recording, a minute at the most. */
export interface CondensedSlice {
  startUs: number;
  spanUs: number;
  samples: number;
  busyUs: number;
  idleUs: number;
  /** Stack → microseconds. */
  weights: Map<number, number>;
  endpoints: EndpointShare[];
}

/** A recording as sums over stacks, without its samples. */
export interface CondensedProfile {
  frames: Frame[];
  /** Frame of each stack's innermost call, and the stack without it; −1 for none. Callers before callees. */
  stackFrame: Int32Array;
  stackParent: Int32Array;
  slices: CondensedSlice[];
}

/** How long a slice is: of a short recording there are enough of them to tell chance from change, of a long one not more than are of use. */
const LENGTHS_US = [5e6, 10e6, 20e6, 30e6, 60e6];
const WANTED = 20;

/**
 * Sums a recording up by slices of time and, of each slice, by endpoint. A sample belongs to the endpoint whose request had its own time at that moment; where
 * several had, each gets an even part, and that part is told as shared. Where none had, it is nobody's.
 * Samples without times are one slice that belongs to no endpoint.
 * @param startedAtUs epoch microseconds
 */
export function condense(
  profile: Profile,
  startedAtUs: number,
  requests: readonly ServedRequest[] = []
): CondensedProfile {
  const stacks = usedStacks(profile);
  const hasTimes = profile.durationNs > 0;
  const spanNs = hasTimes ? profile.durationNs : (profile.recordedNs ?? 0);
  const starts = hasTimes ? sliceStarts(startedAtUs, spanNs) : [0];
  const slices = starts.map((fromNs, i): CondensedSlice => ({
    startUs: startedAtUs + Math.round(fromNs / 1000),
    spanUs: Math.round(((starts[i + 1] ?? spanNs) - fromNs) / 1000),
    samples: 0,
    busyUs: 0,
    idleUs: 0,
    weights: new Map(),
    endpoints: []
  }));
  const shares = slices.map(() => new Map<number, EndpointShare>());
  if (hasTimes) countRequests(requests, starts, spanNs, shares);
  addSamples(profile, stacks.of, starts, hasTimes ? stretchesOf(requests, spanNs) : [], slices, shares);
  slices.forEach((slice, i) => {
    slice.endpoints = [...shares[i].values()];
    inMicroseconds(slice);
    slice.endpoints.forEach(inMicroseconds);
  });
  return { frames: stacks.frames, stackFrame: stacks.frame, stackParent: stacks.parent, slices };
}

/** Where slices begin within a recording, nanoseconds from its start: at whole multiples of their length by the clock, so that none lies in two minutes. */
function sliceStarts(startedAtUs: number, spanNs: number): number[] {
  const wantedUs = spanNs / 1000 / WANTED;
  const lengthUs = LENGTHS_US.find((length) => length >= wantedUs) ?? LENGTHS_US.at(-1)!;
  const starts = [0];
  for (let at = (lengthUs - (startedAtUs % lengthUs)) * 1000; at < spanNs; at += lengthUs * 1000)
    starts.push(at);
  return starts;
}

/** The slice that a moment lies in. */
const sliceAt = (starts: readonly number[], ns: number): number =>
  Math.max(0, lowerBoundBy(starts.length, (i) => (starts[i] <= ns ? 0 : 1), 1) - 1);

/** A request's own stretches, as far as they were recorded. Nanoseconds from the profile's start. */
function* recordedOf(own: Float64Array, spanNs: number): Generator<{ fromNs: number; toNs: number }> {
  for (let i = 0; i < own.length; i += 2) {
    const [fromNs, toNs] = [Math.max(0, own[i]), Math.min(spanNs, own[i + 1])];
    if (toNs > fromNs) yield { fromNs, toNs };
  }
}

const stretchesOf = (requests: readonly ServedRequest[], spanNs: number): OwnedStretch[] =>
  requests.flatMap(({ endpoint, own }) =>
    [...recordedOf(own, spanNs)].map((stretch) => ({ owner: endpoint, ...stretch }))
  );

/** Divides each request among the slices as its own time is; one without any counts where it began. */
function countRequests(
  requests: readonly ServedRequest[],
  starts: readonly number[],
  spanNs: number,
  shares: readonly Map<number, EndpointShare>[]
): void {
  for (const { endpoint, fromNs, own } of requests) {
    let wholeNs = 0;
    for (let i = 0; i < own.length; i += 2) wholeNs += own[i + 1] - own[i];
    if (wholeNs === 0) {
      if (fromNs >= 0 && fromNs < spanNs) shareOf(shares[sliceAt(starts, fromNs)], endpoint).requests++;
      continue;
    }
    for (const { fromNs: from, toNs: to } of recordedOf(own, spanNs))
      for (let slice = sliceAt(starts, from); slice < starts.length && starts[slice] < to; slice++) {
        const inside = Math.min(to, starts[slice + 1] ?? spanNs) - Math.max(from, starts[slice]);
        shareOf(shares[slice], endpoint).requests += inside / wholeNs;
      }
  }
}

function shareOf(shares: Map<number, EndpointShare>, endpoint: number): EndpointShare {
  let share = shares.get(endpoint);
  if (!share)
    shares.set(
      endpoint,
      (share = { endpoint, requests: 0, busyUs: 0, sharedUs: 0, weights: new Map<number, number>() })
    );
  return share;
}

/** Adds every sample to its slices, in nanoseconds. */
function addSamples(
  profile: Profile,
  stackOf: Int32Array,
  starts: readonly number[],
  stretches: readonly OwnedStretch[],
  slices: readonly CondensedSlice[],
  shares: readonly Map<number, EndpointShare>[]
): void {
  const time = ownedTime(stretches, starts);
  const sliceOf = Int32Array.from(time.start, (at) => sliceAt(starts, at));
  const isIdle = Uint8Array.from(profile.frames, ({ kind }) => (kind === 'idle' ? 1 : 0));
  visitPieces(profile, time, (node, piece, ns) => {
    const slice = slices[sliceOf[piece]];
    if (isIdle[profile.nodeFrame[node]]) {
      slice.idleUs += ns;
      return;
    }
    const stack = stackOf[node];
    if (stack < 0) return;
    add(slice.weights, stack, ns);
    const open = time.open[piece];
    for (const [endpoint, of] of time.owners[piece]) {
      const share = shareOf(shares[sliceOf[piece]], endpoint);
      const part = (ns * of) / open;
      add(share.weights, stack, part);
      if (open > of) share.sharedUs += part;
    }
  });
  for (const at of profile.sampleTime) slices[sliceAt(starts, at)].samples++;
}

const add = (weights: Map<number, number>, stack: number, ns: number): void =>
  void weights.set(stack, (weights.get(stack) ?? 0) + ns);

/** Nanoseconds to whole microseconds; what is busy is the sum of its stacks. */
function inMicroseconds(sums: {
  busyUs: number;
  idleUs?: number;
  sharedUs?: number;
  weights: Map<number, number>;
}): void {
  let busyUs = 0;
  for (const [stack, ns] of sums.weights) {
    const us = Math.round(ns / 1000);
    busyUs += us;
    if (us > 0) sums.weights.set(stack, us);
    else sums.weights.delete(stack);
  }
  sums.busyUs = busyUs;
  if (sums.idleUs !== undefined) sums.idleUs = Math.round(sums.idleUs / 1000);
  if (sums.sharedUs !== undefined) sums.sharedUs = Math.min(busyUs, Math.round(sums.sharedUs / 1000));
}

/** Calls within each other that a stack keeps: deeper ones count for the last that is kept. */
export const MOST_DEEP = 1000;

/** The stacks that samples have, with all around them, and none deeper than is kept. */
function usedStacks(profile: Profile): {
  frames: Frame[];
  frame: Int32Array;
  parent: Int32Array;
  /** Node of the profile → stack; −1 for the root and for what is idle. */
  of: Int32Array;
} {
  const { frames, nodeFrame, nodeParent, sampleNode } = profile;
  const used = new Uint8Array(nodeFrame.length);
  for (const node of sampleNode) used[node] = 1;
  for (let node = used.length - 1; node > 0; node--) if (used[node]) used[nodeParent[node]] = 1;
  const of = new Int32Array(nodeFrame.length).fill(-1);
  const depth = new Int32Array(nodeFrame.length);
  const frameOf = new Int32Array(frames.length).fill(-1);
  const kept: Frame[] = [];
  const frame: number[] = [];
  const parent: number[] = [];
  for (let node = 1; node < of.length; node++) {
    if (!used[node] || frames[nodeFrame[node]].kind === 'idle') continue;
    const up = nodeParent[node];
    depth[node] = depth[up] + 1;
    if (depth[node] > MOST_DEEP) {
      of[node] = of[up];
      continue;
    }
    if (frameOf[nodeFrame[node]] < 0) {
      frameOf[nodeFrame[node]] = kept.length;
      kept.push(frames[nodeFrame[node]]);
    }
    of[node] = frame.length;
    frame.push(frameOf[nodeFrame[node]]);
    parent.push(of[up]);
  }
  return { frames: kept, frame: Int32Array.from(frame), parent: Int32Array.from(parent), of };
}
