import { fisherTest } from '../stats/fisher-test';
import {
  FAILURE_MAX_P,
  FAILURE_MIN_RATIO,
  FAILURE_MIN_REQUESTS,
  type FailureCohort
} from './failure-finding';

/** Two sides of requests, and how often each fails. */
export interface FailingShares {
  these: { failed: number; requests: number; share: number };
  others: { failed: number; requests: number; share: number };
  p: number;
}

/** Holds how often some requests fail against how often others do; null where they do not clearly fail more often. */
export function failsMore(
  these: readonly FailureCohort[],
  others: readonly FailureCohort[]
): FailingShares | null {
  const [a, b] = [together(these), together(others)];
  if (a.requests < FAILURE_MIN_REQUESTS || b.requests < FAILURE_MIN_REQUESTS) return null;
  if (a.share <= b.share * FAILURE_MIN_RATIO) return null;
  const p = fisherTest(a.failed, a.requests, b.failed, b.requests);
  return p <= FAILURE_MAX_P ? { these: a, others: b, p } : null;
}

function together(cohorts: readonly FailureCohort[]): FailingShares['these'] {
  const requests = cohorts.reduce((sum, one) => sum + one.requests, 0);
  // A request counts once, in however many ways it was told of.
  const failed = Math.min(
    requests,
    cohorts.reduce((sum, one) => sum + one.failed, 0)
  );
  return { failed, requests, share: requests > 0 ? failed / requests : 0 };
}

/** Cohorts of one endpoint each. */
export const endpointKey = ({ service, endpoint }: FailureCohort): string =>
  JSON.stringify([service, endpoint]);
