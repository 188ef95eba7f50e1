import { bucketOf, countIn, pairsOf, type Sketch } from './sketch';

/** The samples of an Apdex group. Failed samples count as frustrated whatever their time. */
export interface ApdexCounts {
  satisfied: number;
  tolerating: number;
  frustrated: number;
}

export type ApdexRating = 'Excellent' | 'Good' | 'Fair' | 'Poor' | 'Unacceptable';

export const DEFAULT_APDEX_T_MS = 500;
/** Below this many samples a score is marked (Apdex technical specification 1.1, "small group"). */
export const SMALL_GROUP = 100;

export type Zone = keyof ApdexCounts;

/** The zone of one sample: satisfied up to T, tolerating up to 4T, else frustrated. Times in one unit. */
export function apdexZone(duration: number, t: number, failed: boolean): Zone {
  if (failed || duration > 4 * t) return 'frustrated';
  return duration <= t ? 'satisfied' : 'tolerating';
}

/**
 * (satisfied + tolerating / 2) / all; NaN for no samples.
 * Source: Apdex Alliance, "Application Performance Index – Apdex Technical Specification", version 1.1.
 */
export function apdexScore(counts: ApdexCounts): number {
  const all = counts.satisfied + counts.tolerating + counts.frustrated;
  return (counts.satisfied + counts.tolerating / 2) / all;
}

/** The specification's rating of a score, after rounding to its two decimals. */
export function apdexRating(score: number): ApdexRating {
  const rounded = Math.round(score * 100) / 100;
  if (rounded >= 0.94) return 'Excellent';
  if (rounded >= 0.85) return 'Good';
  if (rounded >= 0.7) return 'Fair';
  if (rounded >= 0.5) return 'Poor';
  return 'Unacceptable';
}

/**
 * The zones of durations that are known by their sketch (microseconds) only: the bounds T and 4T hold within 2 %. What lies in the bucket of a bound
 * counts as on it, so that durations of just T are satisfied and of just 4T tolerating.
 * @param failed sketch of the failed samples, which are part of `all` too.
 */
export function apdexFromSketch(all: Sketch, failed: Sketch, tMs: number): ApdexCounts {
  const counts: ApdexCounts = { satisfied: 0, tolerating: 0, frustrated: 0 };
  const [satisfied, tolerating] = [bucketOf(tMs * 1000), bucketOf(4 * tMs * 1000)];
  const zoneAt = (bucket: number): Zone =>
    bucket <= satisfied ? 'satisfied' : bucket <= tolerating ? 'tolerating' : 'frustrated';
  for (const [bucket, count] of pairsOf(all)) {
    const lost = countIn(failed, bucket);
    counts[zoneAt(bucket)] += count - lost;
    counts.frustrated += lost;
  }
  return counts;
}
