import { fisherTest } from '../stats/fisher-test';
import { CHANGE_MAX_P, rankTest, rankTestOf, upperTail } from '../stats/rank-test';
import { apdexFromSketch, type ApdexCounts } from '../stats/apdex';
import { sketchSize, pairsOf, type Sketch } from '../stats/sketch';
import { figureOf, valueIn } from './figures';
import type { Compared } from './compared';
import type { Cell } from './cell';
import type { Watched } from './watched';

/** Fewer minutes on either side cannot be told from chance at the level that is asked for: 8 of 16 leave 1 in 12,870 orders. */
const LEAST_MINUTES = 8;

/**
 * Whether what is worse is clearly so: chance alone brings it about in fewer than one of a thousand cases (`CHANGE_MAX_P`). Durations by the rank test or, of a tail, by how many
 * lie beyond what was its limit before; shares by Fisher's exact test; how often something happens as two Poisson counts; what is only known as a number a minute by the rank test over the minutes.
 */
export function clearlyWorse(watched: Watched, compared: Compared): boolean {
  const { now, before } = compared;
  if (!before) return false;
  return chanceOf(watched, compared, now, before) <= CHANGE_MAX_P;
}

/** Two-sided probability of such a difference by chance alone; 1 where there is too little to say. */
function chanceOf(watched: Watched, compared: Compared, now: Cell, before: Cell): number {
  switch (watched.of) {
    case 'requests':
      if (watched.figure === 'apdex') {
        const zones = ({ sketch, failedSketch }: Cell): ApdexCounts =>
          apdexFromSketch(sketch, failedSketch, watched.apdexMs);
        return apdexChance(zones(before), zones(now));
      }
      return watched.figure === 'calls'
        ? byMinutes(watched, compared)
        : timedChance(watched.figure, compared, now, before);
    case 'calls':
      return watched.figure === 'per-request'
        ? byMinutes(watched, compared)
        : timedChance(watched.figure, compared, now, before);
    case 'finding':
      return fisherTest(before.hits, before.count, now.hits, now.count);
    case 'vital':
      return tailChance(before.sketch, now.sketch, 0.75);
    case 'failures':
      return poissonChance(before.hits, compared.minutesBefore.length, now.hits, compared.minutesNow.length);
    case 'crashes':
      return 1;
    case 'counter':
    case 'measure':
      return byMinutes(watched, compared);
  }
}

function timedChance(
  figure: 'p50' | 'p95' | 'p99' | 'mean' | 'rate' | 'failed',
  { minutesBefore, minutesNow }: Compared,
  now: Cell,
  before: Cell
): number {
  switch (figure) {
    case 'failed':
      return fisherTest(before.failed, before.count, now.failed, now.count);
    case 'rate':
      return poissonChance(before.count, minutesBefore.length, now.count, minutesNow.length);
    case 'p95':
      return tailChance(before.sketch, now.sketch, 0.95);
    case 'p99':
      return tailChance(before.sketch, now.sketch, 0.99);
    default:
      return rankTest(before.sketch, now.sketch)?.p ?? 1;
  }
}

/**
 * Whether more lie in the tail than did: a share p of the earlier lies up to its p-quantile, and so would a like share of the present. Held against each other are how many of each side lie in the
 * buckets above it, by Fisher's exact test of the two shares.
 * Source: the quantile test of two samples (W. J. Conover, "Practical Nonparametric Statistics", the median test at another quantile; from memory).
 */
function tailChance(before: Sketch, now: Sketch, p: number): number {
  const [m, n] = [sketchSize(before), sketchSize(now)];
  if (m === 0 || n === 0) return 1;
  let [seen, limit] = [0, 0];
  for (const [bucket, count] of pairsOf(before)) {
    seen += count;
    limit = bucket;
    if (seen >= p * m) break;
  }
  const above = (sketch: Sketch): number => {
    let sum = 0;
    for (const [bucket, count] of pairsOf(sketch)) if (bucket > limit) sum += count;
    return sum;
  };
  return fisherTest(above(before), m, above(now), n);
}

/**
 * Two counts over some minutes: given their sum, each is binomial by the lengths.
 * Source: J. Przyborowski, H. Wilenski, "Homogeneity of Results in Testing Samples from Poisson Series" (1940), by its normal approximation with a correction for continuity (from memory).
 */
function poissonChance(before: number, minutesBefore: number, now: number, minutesNow: number): number {
  const all = before + now;
  if (all === 0) return 1;
  const share = minutesNow / (minutesNow + minutesBefore);
  const distance = Math.max(0, Math.abs(now - all * share) - 0.5);
  return Math.min(1, 2 * upperTail(distance / Math.sqrt(all * share * (1 - share))));
}

/** Scores of 0, 1/2 and 1: the difference of their means by the central limit theorem. */
function apdexChance(before: ApdexCounts, now: ApdexCounts): number {
  const facts = ({ satisfied, tolerating, frustrated }: ApdexCounts): { mean: number; squared: number } => {
    const all = satisfied + tolerating + frustrated;
    const mean = (satisfied + tolerating / 2) / all;
    return { mean, squared: ((satisfied + tolerating / 4) / all - mean ** 2) / all };
  };
  const [a, b] = [facts(before), facts(now)];
  const squared = a.squared + b.squared;
  if (!(squared > 0)) return a.mean === b.mean || Number.isNaN(squared) ? 1 : 0;
  return Math.min(1, 2 * upperTail(Math.abs(a.mean - b.mean) / Math.sqrt(squared)));
}

/** The rank test over the values of single minutes. */
function byMinutes(watched: Watched, { minutesBefore, minutesNow }: Compared): number {
  const figure = figureOf(watched);
  const values = (cells: Compared['minutesNow']): number[] =>
    cells.flatMap((cell) => {
      const value = cell && valueIn({ ...figure, least: 1 }, cell, 1);
      return value === undefined || value === null ? [] : [value];
    });
  const [then, present] = [values(minutesBefore), values(minutesNow)];
  if (then.length < LEAST_MINUTES || present.length < LEAST_MINUTES) return 1;
  return rankTestOf(then, present)?.p ?? 1;
}
