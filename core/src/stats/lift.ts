import { upperTail } from './rank-test';

/** How much more often something is true of slow requests than of the others. */
export interface Lift {
  key: number;
  slow: number;
  others: number;
  /** Of the slow, and of the other requests. */
  slowShare: number;
  otherShare: number;
  /** slowShare ÷ otherShare; Infinity where no other request has it. */
  lift: number;
  /** Two-sided probability of such a difference by chance alone. */
  p: number;
}

/** Values that fewer slow requests than this have are chance. Common practice. */
export const LIFT_MIN_SUPPORT = 5;
/** And fewer than this share of the slow explain nothing. */
export const LIFT_MIN_SHARE = 0.1;
export const LIFT_MIN = 1.2;
export const LIFT_MAX_P = 0.001;

/**
 * What sets slow requests apart: for each value its share among slow and among other requests. Values with little support,
 * and those whose difference may be chance (two-proportion z test), are left out.
 * Source: lift and support as in association-rule mining; the two-proportion z test with pooled share (any textbook).
 * @param rows the keys (numbers of attribute values) each request has, each once.
 * @returns most telling first: by the difference of the shares.
 */
export function liftsOf(rows: Iterable<{ slow: boolean; keys: Iterable<number> }>): {
  slow: number;
  others: number;
  lifts: Lift[];
} {
  const counts = new Map<number, [number, number]>();
  const all: [number, number] = [0, 0];
  for (const { slow, keys } of rows) {
    const side = slow ? 0 : 1;
    all[side]++;
    for (const key of keys) {
      let both = counts.get(key);
      if (!both) counts.set(key, (both = [0, 0]));
      both[side]++;
    }
  }
  const lifts: Lift[] = [];
  for (const [key, [slow, others]] of counts) {
    if (slow < LIFT_MIN_SUPPORT || slow < LIFT_MIN_SHARE * all[0] || all[1] === 0) continue;
    const slowShare = slow / all[0];
    const otherShare = others / all[1];
    const lift = slowShare / otherShare;
    const p = twoProportions(slow, all[0], others, all[1]);
    if (lift >= LIFT_MIN && p <= LIFT_MAX_P)
      lifts.push({ key, slow, others, slowShare, otherShare, lift, p });
  }
  lifts.sort((a, b) => b.slowShare - b.otherShare - (a.slowShare - a.otherShare) || a.key - b.key);
  return { slow: all[0], others: all[1], lifts };
}

function twoProportions(a: number, allA: number, b: number, allB: number): number {
  const pooled = (a + b) / (allA + allB);
  const error = Math.sqrt(pooled * (1 - pooled) * (1 / allA + 1 / allB));
  return error > 0 ? Math.min(1, 2 * upperTail(Math.abs(a / allA - b / allB) / error)) : 1;
}
