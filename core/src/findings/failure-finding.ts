import type { Severity } from './finding';

/** How often requests of one endpoint failed in one way, under one release on one host, of how many there were. */
export interface FailureCohort {
  service: string;
  endpoint: string;
  host: string;
  release: string;
  /** Epoch microseconds of the release's first request. */
  releaseFirstUs: number;
  failed: number;
  requests: number;
}

/** A group of failures, as far as rules look at it. */
export interface FailureContext {
  /** What it is called. */
  name: string;
  /** Of the endpoints it happens in: also where it did not. */
  cohorts: readonly FailureCohort[];
  /** Services on its ways, from where it starts; the most frequent way first. */
  ways: readonly { services: readonly string[]; times: number }[];
}

/** What a rule found in a group of failures. */
export interface FoundInFailures {
  title: string;
  severity: Severity;
  sentence: string;
  remedy: string;
  figures: Record<string, number | string>;
}
export type FailureFinding<Name extends string = string> = FoundInFailures & { rule: Name };

/** A difference that chance makes once in a thousand comparisons is told (common practice for many comparisons at once). */
export const FAILURE_MAX_P = 0.001;
export const FAILURE_MIN_REQUESTS = 20;
/** So many times as often, at least. */
export const FAILURE_MIN_RATIO = 2;

export const FAILURE_SURE = {
  name: 'certainty',
  value: `p ≤ ${FAILURE_MAX_P} in Fisher’s exact test, at least ${FAILURE_MIN_REQUESTS} requests on both sides`,
  why: 'Every group of failures is tested at every release and host, so chance must be ruled out strictly.'
};
export const FAILURE_OFTEN = {
  name: 'ratio of the shares that fail',
  value: `${FAILURE_MIN_RATIO} or more`,
  why: 'A smaller difference is no lead, however sure it is.'
};
