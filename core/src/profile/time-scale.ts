import { lowerBound, lowerBoundBy } from '../binary-search';
import type { Profile } from './model';
import { longest } from './slice';

/** A stretch in which nothing ran, closed up: where it stands, and how long it was. */
export interface ClosedStretch {
  x: number;
  width: number;
  ns: number;
}

/** Where moments of a window stand in a picture of it, as parts of its width from 0 to 1. Nanoseconds. */
export interface TimeScale {
  partAt(ns: number): number;
  timeAt(part: number): number;
  /** How long a part of the width lasts where it is not closed up. */
  nsOf(part: number): number;
  closed: ClosedStretch[];
}

export interface ScaledWindow {
  fromNs: number;
  toNs: number;
  /** Index of a thread; −1 for all. */
  thread: number;
}

/** All of a window as wide as it is long. */
export const evenScale = ({ fromNs, toNs }: ScaledWindow): TimeScale => scaleOf(fromNs, toNs, []);

/** Idle stretches of so much of the window are closed up. */
const LEAST_CLOSED = 0.0005;
/** Part of the width that is left of each, and of all together, at most. */
const CLOSED_WIDTH = 0.008;
const ALL_CLOSED = 0.25;

/** A window with its long idle stretches closed up: those in which no thread of it ran, or nothing was sampled. */
export function closedScale(profile: Profile, window: ScaledWindow): TimeScale {
  const { fromNs, toNs } = window;
  const least = (toNs - fromNs) * LEAST_CLOSED;
  const idle: [from: number, to: number][] = [];
  let busyTo = fromNs;
  for (const [from, to] of busyIn(profile, window)) {
    if (from - busyTo >= least) idle.push([busyTo, from]);
    busyTo = Math.max(busyTo, to);
  }
  if (toNs - busyTo >= least) idle.push([busyTo, toNs]);
  // Of a window in which nothing ran there is nothing to make room for.
  return scaleOf(fromNs, toNs, busyTo === fromNs ? [] : idle);
}

/** The samples that are not idle, by their beginnings, cut to the window. */
function* busyIn(profile: Profile, { fromNs, toNs, thread }: ScaledWindow): Generator<[number, number]> {
  const { sampleNode, sampleTime, sampleWeight, sampleThread, nodeFrame, frames } = profile;
  const isIdle = Array.from(frames, ({ kind }) => kind === 'idle');
  // An earlier sample may reach in.
  const reach = sampleThread ? longest(sampleWeight) : 0;
  for (let i = Math.max(0, lowerBound(sampleTime, fromNs - reach) - 1); i < sampleNode.length; i++) {
    if (sampleTime[i] >= toNs) return;
    if (isIdle[nodeFrame[sampleNode[i]]] || (thread >= 0 && sampleThread && sampleThread[i] !== thread))
      continue;
    const [from, to] = [Math.max(fromNs, sampleTime[i]), Math.min(toNs, sampleTime[i] + sampleWeight[i])];
    if (to > from) yield [from, to];
  }
}

/** @param idle stretches that may be closed up, in order, apart from each other; those that would be wider then stay as they are */
function scaleOf(fromNs: number, toNs: number, idle: readonly [from: number, to: number][]): TimeScale {
  const width = Math.min(CLOSED_WIDTH, ALL_CLOSED / Math.max(1, idle.length));
  const idleNs = idle.reduce((sum, [from, to]) => sum + to - from, 0);
  /** Parts of the width of a nanosecond that is not closed up. */
  const density = (1 - idle.length * width) / Math.max(1, toNs - fromNs - idleNs);
  const narrower = idle.filter(([from, to]) => (to - from) * density > width);
  if (narrower.length < idle.length) return scaleOf(fromNs, toNs, narrower);
  const ends: { ns: number; part: number }[] = [{ ns: fromNs, part: 0 }];
  const closed = idle.map(([from, to]): ClosedStretch => {
    const before = ends.at(-1)!;
    const x = before.part + (from - before.ns) * density;
    ends.push({ ns: from, part: x }, { ns: to, part: x + width });
    return { x, width, ns: to - from };
  });
  ends.push({ ns: toNs, part: 1 });
  /** A value of one kind as one of the other, between the two ends around it. */
  const between = (value: number, of: 'ns' | 'part', as: 'ns' | 'part'): number => {
    const found = lowerBoundBy(ends.length, (i) => ends[i][of], value);
    const at = Math.min(ends.length - 1, Math.max(1, found));
    const [a, b] = [ends[at - 1], ends[at]];
    const length = b[of] - a[of];
    return length <= 0 ? b[as] : a[as] + ((value - a[of]) / length) * (b[as] - a[as]);
  };
  return {
    partAt: (ns) => between(ns, 'ns', 'part'),
    timeAt: (part) => between(part, 'part', 'ns'),
    nsOf: (part) => part / density,
    closed
  };
}
