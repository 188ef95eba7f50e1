import { eachSide, type Sides } from '../sides';
import { dependenceOf } from '../stats/autocorrelation';
import { believable } from '../stats/false-discovery';
import { rankTestOf } from '../stats/rank-test';
import type { ComparedSide } from './compared-side';
import { compareSides, type Comparison } from './comparison';
import type { SureOptions } from './how-sure';

/**
 * Several comparisons that are read together, such as all endpoints of two releases: of twenty that are alike one would look changed by chance. What is clear is judged
 * by the procedure of Benjamini and Hochberg on their rank tests, and intervals are as wide as Benjamini and Yekutieli ask for (see `levelAmong`).
 */
export function compareMany(pairs: readonly Sides<ComparedSide>[], options: SureOptions = {}): Comparison[] {
  const { believed, tested } = believable(pairs.map(chanceOf));
  const among = Math.max(1, believed.filter(Boolean).length) / Math.max(1, tested);
  return pairs.map((sides) => compareSides(sides, { ...options, among }));
}

/** Probability of the ranks of two sides by chance alone; NaN where one is empty. */
function chanceOf(sides: Sides<ComparedSide>): number {
  const inflation = eachSide(
    sides,
    ({ durationsNs }) => durationsNs.length / dependenceOf(durationsNs).effective
  );
  const { before, after } = eachSide(sides, ({ durationsNs }) => durationsNs);
  return rankTestOf(before, after, { first: inflation.before, second: inflation.after })?.p ?? NaN;
}
