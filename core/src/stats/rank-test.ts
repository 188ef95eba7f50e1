import { countIn, sketchQuantiles, sketchSize, type Sketch } from './sketch';

/** What a rank test says of two groups of durations. */
export interface RankTest {
  /** The chance that one of the second group is longer than one of the first (ties count half); 0.5 = alike. */
  superiority: number;
  /** Two-sided probability of such a difference by chance alone. */
  p: number;
}

/**
 * Mann–Whitney U of two sketches, whose buckets count as ties: normal approximation with tie correction.
 * Source: H. B. Mann, D. R. Whitney, "On a Test of Whether one of Two Random Variables is Stochastically Larger than
 * the Other" (1947); the tie correction as in Lehmann, "Nonparametrics" (1975), from memory.
 * @returns null where either side is empty.
 */
export function rankTest(first: Sketch, second: Sketch): RankTest | null {
  const ranks = rankSums(first, second);
  return ranks && judged(ranks, { first: 1, second: 1 });
}

/** U of two groups and what its variance is made of. */
interface RankSums {
  u: number;
  m: number;
  n: number;
  /** Σ(t³ − t) over the values that are tied. */
  ties: number;
}

function rankSums(first: Sketch, second: Sketch): RankSums | null {
  const m = sketchSize(first);
  const n = sketchSize(second);
  if (m <= 0 || n <= 0) return null;
  let below = 0;
  let u = 0;
  let ties = 0;
  const low = Math.min(first.low, second.low);
  const end = Math.max(first.low + first.counts.length, second.low + second.counts.length);
  for (let bucket = low; bucket < end; bucket++) {
    const a = countIn(first, bucket);
    const b = countIn(second, bucket);
    const tied = a + b;
    if (tied === 0) continue;
    u += b * (below + a / 2);
    below += a;
    ties += tied * tied * tied - tied;
  }
  return { u, m, n, ties };
}

/** The variance of U where nothing differs, with ties corrected. */
function varianceOf({ m, n, ties }: RankSums): number {
  const all = m + n;
  return ((m * n) / 12) * (all + 1 - ties / (all * (all - 1 || 1)));
}

/** What U says, by its normal approximation. */
function judged(sums: RankSums, inflation: Inflation): RankTest {
  const { u, m, n } = sums;
  const independent = varianceOf(sums);
  const variance = (independent * (inflation.first / m + inflation.second / n)) / (1 / m + 1 / n);
  const distance = Math.max(0, Math.abs(u - (m * n) / 2) - 0.5);
  const z = variance > 0 ? distance / Math.sqrt(variance) : 0;
  return { superiority: u / (m * n), p: Math.min(1, 2 * upperTail(z)) };
}

/** Two groups of like things: durations of one endpoint, before and after. */
export interface Stratum {
  first: Sketch;
  second: Sketch;
}

/**
 * The rank test over several strata: only like is held against like, so that another mix of them makes no difference. Each weighs by 1 ÷ (its number + 1).
 * Source: Ph. van Elteren, "On the Combination of Independent Two-Sample Tests of Wilcoxon" (1960), from memory.
 * @returns null where no stratum has both groups.
 */
export function stratifiedRankTest(strata: readonly Stratum[]): RankTest | null {
  let [distance, variance, above, pairs] = [0, 0, 0, 0];
  for (const { first, second } of strata) {
    const sums = rankSums(first, second);
    if (!sums) continue;
    const { u, m, n } = sums;
    const weight = 1 / (m + n + 1);
    distance += weight * (u - (m * n) / 2);
    variance += weight * weight * varianceOf(sums);
    above += weight * u;
    pairs += weight * m * n;
  }
  if (pairs === 0) return null;
  const z = variance > 0 ? Math.abs(distance) / Math.sqrt(variance) : 0;
  return { superiority: above / pairs, p: Math.min(1, 2 * upperTail(z)) };
}

/** How much wider chance is than of as many independent samples, one figure for each side: n ÷ the effective number. */
export interface Inflation {
  first: number;
  second: number;
}

/**
 * Mann–Whitney U of two groups of values, with ties corrected as in `rankTest`, and with the variance that samples have which depend on their neighbours: U ÷ (m·n) is to
 * first order the difference of two means of ranks, whose variances grow with what each side’s samples have in common.
 * @returns null where either side is empty.
 */
export function rankTestOf(
  first: ArrayLike<number>,
  second: ArrayLike<number>,
  inflation: Inflation = { first: 1, second: 1 }
): RankTest | null {
  const m = first.length;
  const n = second.length;
  if (m === 0 || n === 0) return null;
  const [a, b] = [Float64Array.from(first).sort(), Float64Array.from(second).sort()];
  let u = 0;
  let ties = 0;
  for (let i = 0, j = 0; i < m || j < n;) {
    const value = j === n || (i < m && a[i] <= b[j]) ? a[i] : b[j];
    const below = i;
    const [fromI, fromJ] = [i, j];
    while (i < m && a[i] === value) i++;
    while (j < n && b[j] === value) j++;
    const [inA, inB] = [i - fromI, j - fromJ];
    u += inB * (below + inA / 2);
    const tied = inA + inB;
    ties += tied ** 3 - tied;
  }
  return judged({ u, m, n, ties }, inflation);
}

/**
 * P(Z > z) of the standard normal distribution, z ≥ 0, absolute error below 7.5e-8.
 * Source: Abramowitz & Stegun, "Handbook of Mathematical Functions", 26.2.17.
 */
export function upperTail(z: number): number {
  const t = 1 / (1 + 0.2316419 * z);
  const density = Math.exp((-z * z) / 2) / Math.sqrt(2 * Math.PI);
  const polynomial =
    t * (0.31938153 + t * (-0.356563782 + t * (1.781477937 + t * (-1.821255978 + t * 1.330274429))));
  return density * polynomial;
}

/** Fewer samples than this on either side say nothing about a change. */
export const CHANGE_MIN_COUNT = 20;
/** Chance below which a difference is spoken of: many rows are looked at at once, so it is strict. */
export const CHANGE_MAX_P = 0.001;
/** Differences of the median smaller than this are no news, however certain. */
export const CHANGE_MIN_RATIO = 1.05;

/** A statement about two groups of durations. */
export interface Change {
  verdict: 'slower' | 'faster' | 'no clear change' | 'too few';
  /** Median after ÷ median before; NaN with too few. */
  ratio: number;
  p: number;
}

/** Says whether durations changed: both the rank test and the size of the change must say so. */
export function changeBetween(before: Sketch, after: Sketch, medians: [number, number]): Change {
  const counts = [sketchSize(before), sketchSize(after)];
  return changeBy(rankTest(before, after), medians[1] / medians[0], counts);
}

/**
 * The same over several strata. The ratio is that of the medians, each weighed by how many there are after: what as many of the same would have taken
 * before.
 */
export function changeOverStrata(strata: readonly Stratum[]): Change {
  const both = strata.filter(({ first, second }) => sketchSize(first) > 0 && sketchSize(second) > 0);
  const sum = (value: (one: Stratum) => number): number => both.reduce((all, one) => all + value(one), 0);
  const median = (sketch: Sketch): number => sketchQuantiles(sketch, [0.5])[0];
  const took = sum(({ second }) => sketchSize(second) * median(second));
  const expected = sum(({ first, second }) => sketchSize(second) * median(first));
  return changeBy(stratifiedRankTest(both), took / expected, [
    sum(({ first }) => sketchSize(first)),
    sum(({ second }) => sketchSize(second))
  ]);
}

function changeBy(test: RankTest | null, ratio: number, counts: readonly number[]): Change {
  if (!test || counts.some((count) => count < CHANGE_MIN_COUNT))
    return { verdict: 'too few', ratio: NaN, p: NaN };
  const sure = test.p <= CHANGE_MAX_P;
  if (sure && ratio >= CHANGE_MIN_RATIO && test.superiority > 0.5)
    return { verdict: 'slower', ratio, p: test.p };
  if (sure && ratio <= 1 / CHANGE_MIN_RATIO && test.superiority < 0.5)
    return { verdict: 'faster', ratio, p: test.p };
  return { verdict: 'no clear change', ratio, p: test.p };
}

/** Where a change stands among others: one nobody is sure of after every sure one, one too few requests tell of nowhere. */
export const changeRank = ({ verdict, ratio }: Change): number | null =>
  verdict === 'too few' ? null : verdict === 'no clear change' ? 1 : ratio;
