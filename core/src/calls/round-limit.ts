import { isFailed } from '../trace/requests';
import type { TraceTree } from '../trace/tree';

/**
 * Limits people set by hand, in seconds. A duration that lies just beyond one is most likely that limit running out.
 * Common practice.
 */
export const ROUND_LIMITS_S = [1, 2, 3, 5, 10, 15, 20, 30, 60];
/** How far beyond its limit a call may end and still be taken for it. */
export const ROUND_TOLERANCE = 0.03;

/** The round limit (nanoseconds) a duration (nanoseconds) ends at or within 3 % after; null where there is none. */
export function roundLimitOf(durationNs: number): number | null {
  for (const seconds of ROUND_LIMITS_S) {
    const limit = seconds * 1e9;
    if (durationNs >= limit && durationNs <= limit * (1 + ROUND_TOLERANCE)) return limit;
  }
  return null;
}

/** True for a call that ended at a round limit and failed: most likely the limit ran out. One that succeeded may just have taken that long. */
export const ranIntoLimit = (tree: TraceTree, node: number): boolean =>
  roundLimitOf(tree.end[node] - tree.start[node]) !== null && isFailed(tree.nodes[node].span);
