/** How a page feels to who waits before it, as web.dev's Web Vitals name it. */
export type Vital = 'ttfb' | 'fcp' | 'lcp' | 'inp' | 'cls';
export const VITALS: readonly Vital[] = ['ttfb', 'fcp', 'lcp', 'inp', 'cls'];

/** What was measured of a load: milliseconds, and for CLS a score without unit. What was not measured is left out. */
export type Vitals = Partial<Record<Vital, number>>;

export type Rating = 'good' | 'middling' | 'poor';

interface VitalFacts {
  title: string;
  /** Up to here it is good; above the second it is poor. */
  limits: readonly [good: number, poor: number];
  /** How often it counts in the score of a load. */
  weight: number;
}

/**
 * Limits of web.dev: “Core Web Vitals” and “Web Vitals” (thresholds as published in 2024: LCP 2.5 s and 4 s, INP 200 ms and 500 ms, CLS 0.1 and 0.25,
 * FCP 1.8 s and 3 s, TTFB 0.8 s and 1.8 s), each judged at the 75th percentile of the loads.
 */
export const VITAL_FACTS: Readonly<Record<Vital, VitalFacts>> = {
  ttfb: { title: 'first byte', limits: [800, 1800], weight: 1 },
  fcp: { title: 'first paint', limits: [1800, 3000], weight: 1 },
  lcp: { title: 'largest paint', limits: [2500, 4000], weight: 2 },
  inp: { title: 'answer to input', limits: [200, 500], weight: 2 },
  cls: { title: 'shift', limits: [0.1, 0.25], weight: 1 }
};

/** What a value of a vital is called. A value of just the limit is on its better side. */
export function ratingOf(vital: Vital, value: number): Rating {
  const [good, poor] = VITAL_FACTS[vital].limits;
  if (value <= good) return 'good';
  return value <= poor ? 'middling' : 'poor';
}

/** 1 up to the good limit, 0 from the poor one on, a straight line between. */
export function vitalScore(vital: Vital, value: number): number {
  const [good, poor] = VITAL_FACTS[vital].limits;
  return Math.min(1, Math.max(0, (poor - value) / (poor - good)));
}

/** The score of a load, 0 to 100: the mean over the vitals that were measured, LCP and INP counted twice; null where none was. */
export function loadScore(vitals: Vitals): number | null {
  let [sum, weights] = [0, 0];
  for (const vital of VITALS) {
    const value = vitals[vital];
    if (value === undefined) continue;
    const { weight } = VITAL_FACTS[vital];
    sum += weight * vitalScore(vital, value);
    weights += weight;
  }
  return weights === 0 ? null : (100 * sum) / weights;
}

/** The score of a load whose every vital is good. */
export const FULL_SCORE = 100;

/** Loads of a page that have a score, and the sum of their scores. */
export interface ScoredLoads {
  loads: number;
  scoreSum: number;
}

/** How many points the mean over all loads would gain if every load of this page were good. @param all loads of every page that have a score */
export const worthOf = ({ loads, scoreSum }: ScoredLoads, all: number): number =>
  all === 0 ? 0 : (FULL_SCORE * loads - scoreSum) / all;
