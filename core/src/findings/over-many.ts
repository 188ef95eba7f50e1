import { groupBy } from '../group-by';
import { changeBetween, CHANGE_MAX_P, CHANGE_MIN_COUNT, type Change } from '../stats/rank-test';
import { emptySketch, mergeInto, sketchQuantiles, type Sketch } from '../stats/sketch';
import type { Severity } from './finding';

/** The requests of one endpoint on one host under one release, summed up. */
export interface Cohort {
  service: string;
  endpoint: string;
  host: string;
  release: string;
  /** Epoch microseconds of the release's first request. */
  releaseFirstUs: number;
  count: number;
  totalNs: number;
  /** The part of it that counts among all time in the scope: each nanosecond once, at the innermost request. */
  exclusiveNs: number;
  /** Durations over microseconds. */
  sketch: Sketch;
}

/** The first request a process served. */
export interface FirstRequest {
  service: string;
  endpoint: string;
  host: string;
  release: string;
  durationNs: number;
  /** As of `Cohort`. */
  exclusiveNs: number;
  traceId: string;
  spanId: string;
}

/** What was found over many requests of one endpoint. */
export interface FoundOverMany {
  title: string;
  severity: Severity;
  sentence: string;
  remedy: string;
  service: string;
  endpoint: string;
  /** The host or release it is about. */
  subject: string;
  requests: number;
  costNs: number;
  figures: Record<string, number | string | null>;
  /** Host or release to narrow the scope to. */
  narrow?: { host?: string; release?: string };
  /** A request to open, where one stands for it. */
  example?: { traceId: string; spanId: string };
}

/** What rules over many requests may look at. */
export interface ManyContext {
  cohorts: readonly Cohort[];
  /** The first request of each process. */
  firsts: readonly FirstRequest[];
  /** The median of the endpoint under a release, nanoseconds. */
  medianNs: (of: Pick<FirstRequest, 'service' | 'endpoint' | 'release'>) => number;
  /** All time in the scope, for the severity. */
  allNs: number;
}

/** Share of all time in the scope from which a finding over many requests is severe. */
export const SCOPE_HIGH_SHARE = 0.1;
export const SCOPE_MEDIUM_SHARE = 0.02;
/** Less of all time than this is not worth a sentence, and not the reckoning of a test. */
export const SCOPE_MIN_SHARE = 0.001;

export function scopeSeverity(share: number): Severity {
  if (share >= SCOPE_HIGH_SHARE) return 'high';
  return share >= SCOPE_MEDIUM_SHARE ? 'medium' : 'low';
}

/** Sums of several cohorts. */
export function together(cohorts: readonly Cohort[]): Pick<Cohort, 'count' | 'totalNs' | 'sketch'> {
  const sum = { count: 0, totalNs: 0, sketch: emptySketch() };
  for (const { count, totalNs, sketch } of cohorts) {
    sum.count += count;
    sum.totalNs += totalNs;
    mergeInto(sum.sketch, sketch);
  }
  return sum;
}

/**
 * How much longer the second cohorts took in all than they would have at the first ones' mean, nanoseconds; of that only the part that counts
 * among all time, so that it is no more than all of it.
 */
export function excess(first: readonly Cohort[], second: readonly Cohort[]): number {
  const sum = (list: readonly Cohort[], of: 'count' | 'totalNs' | 'exclusiveNs'): number =>
    list.reduce((total, one) => total + one[of], 0);
  const totalNs = sum(second, 'totalNs');
  const longerNs =
    totalNs - (sum(first, 'totalNs') / Math.max(1, sum(first, 'count'))) * sum(second, 'count');
  return Math.round((longerNs * sum(second, 'exclusiveNs')) / Math.max(1, totalNs));
}

/** Medians in nanoseconds and the test between two groups. */
export function compare(before: Sketch, after: Sketch): Change & { medians: [number, number] } {
  const medians: [number, number] = [
    sketchQuantiles(before, [0.5])[0] * 1000,
    sketchQuantiles(after, [0.5])[0] * 1000
  ];
  return { ...changeBetween(before, after, medians), medians };
}

/** Items of each endpoint. */
export const byEndpoint = <T extends Pick<Cohort, 'service' | 'endpoint'>>(items: readonly T[]): T[][] => [
  ...groupBy(items, ({ service, endpoint }) => JSON.stringify([service, endpoint])).values()
];

/** The threshold that all comparisons share. */
export const SURE = {
  name: 'certainty',
  value: `p ≤ ${CHANGE_MAX_P} in a rank test, at least ${CHANGE_MIN_COUNT} requests on both sides`,
  why: 'Many rows are tested at once, so chance must be ruled out strictly.'
};
