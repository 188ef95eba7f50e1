import { histogramQuantile, merged, type Distribution, type TimedDistribution } from './histograms';
import type { Line } from './strips';

/** Bins of equal length that follow each other. */
export interface Grid {
  /** Start of the first, epoch milliseconds. */
  fromMs: number;
  stepMs: number;
  length: number;
}

/** What came in each bin, null for nothing; a stretch counts in the one it ends in. */
export function distributionsInBins(
  parts: readonly TimedDistribution[],
  { fromMs, stepMs, length }: Grid
): (Distribution | null)[] {
  const inBin = new Array<Distribution | null>(length).fill(null);
  for (const part of parts) {
    const bin = Math.floor((part.toMs - 1 - fromMs) / stepMs);
    if (bin < 0 || bin >= length) continue;
    const known = inBin[bin];
    // Where bounds changed within a bin, the newer ones count.
    inBin[bin] = known ? (merged(known, part) ?? part) : part;
  }
  return inBin;
}

export const quantileLine = (inBin: readonly (Distribution | null)[], p: number): Line =>
  inBin.map((of) => (of ? (histogramQuantile(of, p)?.value ?? null) : null));

/** How often something was measured, a second. */
export const oftenLine = (inBin: readonly (Distribution | null)[], stepMs: number): Line =>
  inBin.map((of) => (of ? of.count / (stepMs / 1000) : null));
