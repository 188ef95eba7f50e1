import { eachSide, type Sides } from '../sides';
import { median } from '../stats/percentile';

/** Two sets of durations on one axis. */
export interface Distributions {
  /** Edges of the classes, nanoseconds, each the same multiple of the one before: one more than there are classes. */
  edgesNs: Float64Array;
  /** Share of a side's requests in each class. */
  shares: Sides<Float64Array>;
  /** Share of a side's requests that take no longer than the end of each class: the empirical distribution function there. */
  upTo: Sides<Float64Array>;
}

/**
 * Both sides in classes of equal width on a logarithmic axis.
 * @param classes how many.
 * @returns null where neither side has durations above 0.
 */
export function distributionsOf(durationsNs: Sides<Float64Array>, classes = 60): Distributions | null {
  let [low, high] = [Infinity, 0];
  for (const side of [durationsNs.before, durationsNs.after])
    for (const ns of side)
      if (ns > 0) {
        low = Math.min(low, ns);
        high = Math.max(high, ns);
      }
  if (high === 0) return null;
  // A hair beyond the slowest, so that it lies inside its class.
  const ratio = Math.max(Math.log(high / low) * 1.0001, 1e-3) / classes;
  const classOf = (ns: number): number =>
    Math.min(classes - 1, Math.max(0, Math.floor(Math.log(Math.max(ns, low) / low) / ratio)));
  const shares = eachSide(durationsNs, (side) => {
    const counts = new Float64Array(classes);
    for (const ns of side) counts[classOf(ns)]++;
    return side.length === 0 ? counts : counts.map((count) => count / side.length);
  });
  return {
    edgesNs: Float64Array.from({ length: classes + 1 }, (_, i) => low * Math.exp(i * ratio)),
    shares,
    upTo: eachSide(shares, (of) => {
      let sum = 0;
      return of.map((share) => (sum += share));
    })
  };
}

/** The median of a stretch of time. */
export interface MedianAt {
  /** Middle of the stretch, seconds after the side began. */
  atS: number;
  medianNs: number;
  requests: number;
}

/** Medians over time in stretches of equal length; those without requests are left out. @param lengthS of the whole, seconds */
export function mediansOverTime(
  startsS: ArrayLike<number>,
  durationsNs: ArrayLike<number>,
  lengthS: number,
  stretches = 40
): MedianAt[] {
  const step = lengthS / stretches;
  const within = Array.from({ length: stretches }, (): number[] => []);
  for (let i = 0; i < startsS.length; i++) {
    const at = Math.min(stretches - 1, Math.max(0, Math.floor(startsS[i] / step)));
    within[at].push(durationsNs[i]);
  }
  return within.flatMap((list, i) =>
    list.length === 0 ? [] : [{ atS: (i + 0.5) * step, medianNs: median(list), requests: list.length }]
  );
}
