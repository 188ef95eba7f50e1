/** Differences of logarithms below this are rounding. */
const ROUNDING = 1e-7;

/**
 * Two-sided probability that shares differ so much by chance alone: all tables with the same sums that are no likelier than this one.
 * Source: R. A. Fisher, "The Design of Experiments" (1935), the exact test of a 2 × 2 table; two-sided by the sum of no likelier tables (common practice).
 * @param hits of each side, at most as many as there are.
 */
export function fisherTest(hitsA: number, allA: number, hitsB: number, allB: number): number {
  const hits = hitsA + hitsB;
  const all = allA + allB;
  const logP = (a: number): number => logChoose(allA, a) + logChoose(allB, hits - a) - logChoose(all, hits);
  const seen = logP(hitsA);
  let sum = 0;
  for (let a = Math.max(0, hits - allB); a <= Math.min(hits, allA); a++) {
    const one = logP(a);
    if (one <= seen + ROUNDING) sum += Math.exp(one);
  }
  return Math.min(1, sum);
}

const logChoose = (n: number, k: number): number => logFactorial(n) - logFactorial(k) - logFactorial(n - k);

const KNOWN: number[] = [0, 0];
/** Stirling's series is exact to 1e-12 from here on (Abramowitz & Stegun, 6.1.41). */
const SERIES_FROM = 256;
function logFactorial(n: number): number {
  if (n >= SERIES_FROM) {
    const x = n + 1;
    return (x - 0.5) * Math.log(x) - x + 0.5 * Math.log(2 * Math.PI) + 1 / (12 * x) - 1 / (360 * x ** 3);
  }
  for (let i = KNOWN.length; i <= n; i++) KNOWN[i] = KNOWN[i - 1] + Math.log(i);
  return KNOWN[n];
}
