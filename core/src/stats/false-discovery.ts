/**
 * Which of many tests may be believed when at most a share of those believed may be chance: the Benjamini–Hochberg procedure.
 * Source: Y. Benjamini, Y. Hochberg, "Controlling the False Discovery Rate", Journal of the Royal Statistical Society B 57 (1995).
 * @param ps probabilities by chance alone, 0 to 1; NaN for what was not tested.
 * @param rate share of the believed that may be chance.
 */
export function believable(ps: readonly number[], rate = 0.05): { believed: boolean[]; tested: number } {
  const order = ps.flatMap((p, at) => (Number.isNaN(p) ? [] : [at])).sort((a, b) => ps[a] - ps[b]);
  let last = order.length;
  while (last > 0 && ps[order[last - 1]] > (rate * last) / order.length) last--;
  const believed = ps.map(() => false);
  for (const at of order.slice(0, last)) believed[at] = true;
  return { believed, tested: order.length };
}

/**
 * The level at which intervals of those believed are to be drawn, so that of the intervals shown no more than a share misses the truth.
 * Source: Y. Benjamini, D. Yekutieli, "False Discovery Rate–Adjusted Multiple Confidence Intervals for Selected Parameters",
 * Journal of the American Statistical Association 100 (2005): level 1 − R·q/m.
 */
export const levelAmong = (tested: number, believed: number, rate = 0.05): number =>
  1 - (rate * Math.max(1, believed)) / Math.max(1, tested);
