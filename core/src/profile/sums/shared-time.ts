import type { Profile } from '../model';
import { samplesByThread } from '../samples-by-thread';

/** A stretch in which something is the case for an owner. Nanoseconds from the profile's start. */
export interface OwnedStretch {
  owner: number;
  fromNs: number;
  toNs: number;
}

/** Who owns time, piece by piece: piece i lasts from `start[i]` to `start[i + 1]`, the last for ever. */
export interface OwnedTime {
  start: Float64Array;
  /** By piece: each owner, and how many stretches of its are open. */
  owners: readonly (readonly [owner: number, open: number][])[];
  /** How many stretches are open in each piece. */
  open: Uint32Array;
}

/** @param cuts moments at which a piece ends in any case; the first piece begins at 0 or before */
export function ownedTime(stretches: readonly OwnedStretch[], cuts: readonly number[]): OwnedTime {
  const real = stretches.filter(({ fromNs, toNs }) => toNs > fromNs);
  const begins = real.toSorted((a, b) => a.fromNs - b.fromNs);
  const ends = real.toSorted((a, b) => a.toNs - b.toNs);
  const start = Float64Array.from(
    new Set([0, ...cuts, ...begins.map(({ fromNs }) => fromNs), ...ends.map(({ toNs }) => toNs)])
  ).sort();
  const open = new Uint32Array(start.length);
  const owners: [number, number][][] = [];
  const running = new Map<number, number>();
  let [begun, ended] = [0, 0];
  start.forEach((at, piece) => {
    for (; begun < begins.length && begins[begun].fromNs <= at; begun++)
      running.set(begins[begun].owner, (running.get(begins[begun].owner) ?? 0) + 1);
    for (; ended < ends.length && ends[ended].toNs <= at; ended++) {
      const left = running.get(ends[ended].owner)! - 1;
      if (left > 0) running.set(ends[ended].owner, left);
      else running.delete(ends[ended].owner);
    }
    owners.push([...running]);
    open[piece] = begun - ended;
  });
  return { start, owners, open };
}

/**
 * Visits the busy samples of a profile cut into the pieces of a time that is owned. A sample belongs to its thread from its time on for as long
 * as it weighs.
 * @param visit called with the node of the sample, the piece, and the nanoseconds of the sample in it
 */
export function visitPieces(
  profile: Profile,
  { start }: OwnedTime,
  visit: (node: number, piece: number, ns: number) => void
): void {
  const { sampleNode, sampleTime, sampleWeight } = profile;
  for (const samples of samplesByThread(profile)) {
    let piece = 0;
    for (const sample of samples) {
      const [from, to] = [sampleTime[sample], sampleTime[sample] + sampleWeight[sample]];
      // Samples come in time order, so that the piece only moves on; what begins before all of them belongs to the first.
      while (piece + 1 < start.length && start[piece + 1] <= from) piece++;
      let at = from;
      for (let of = piece; at < to; of++) {
        const end = of + 1 < start.length ? Math.min(to, start[of + 1]) : to;
        if (end > at) visit(sampleNode[sample], of, end - at);
        at = Math.max(at, end);
      }
    }
  }
}
