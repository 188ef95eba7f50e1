import { describe, expect, it } from 'vitest';
import type { FailureCohort, FailureContext } from './failure-finding';
import { findInFailures } from './failure-rules';

const cohort = (more: Partial<FailureCohort>): FailureCohort => ({
  service: 'pilots',
  endpoint: 'POST /calls/:id/pilot',
  host: 'quay-5',
  release: '7.2',
  releaseFirstUs: 2,
  failed: 0,
  requests: 200,
  ...more
});
const found = (cohorts: FailureCohort[], ways: FailureContext['ways'] = []): string[] =>
  findInFailures({ name: 'WatchUnknown', cohorts, ways }).map(({ title }) => title);

describe('rules about failures', () => {
  it('fails since a release: clearly more often than under the one before, in order of their first requests', () => {
    const old = cohort({ release: '7.1', releaseFirstUs: 1, failed: 20 });
    const now = cohort({ release: '7.3', releaseFirstUs: 3, failed: 12 });
    expect(found([now, old, cohort({})])).toEqual(['Fails since 7.3']);
    expect(found([old, cohort({})])).toEqual([]);
  });

  it('is silent where chance, or too few requests, may explain it', () => {
    // Fisher's exact test of 2 of 200 against 0 of 200: p = 0.499 (worked by hand: 2 · C(200,2)/C(400,2)).
    expect(found([cohort({}), cohort({ release: '7.3', releaseFirstUs: 3, failed: 2 })])).toEqual([]);
    expect(
      found([
        cohort({ requests: 19 }),
        cohort({ release: '7.3', releaseFirstUs: 3, failed: 19, requests: 19 })
      ])
    ).toEqual([]);
    const often = cohort({ failed: 4000, requests: 10_000 });
    expect(
      found([often, cohort({ release: '7.3', releaseFirstUs: 3, failed: 6000, requests: 10_000 })])
    ).toEqual([]);
  });

  it('fails on one host: only within a release, and not where there is one host alone', () => {
    const bad = cohort({ host: 'quay-4', failed: 30 });
    expect(found([cohort({}), bad])).toEqual(['Fails on quay-4']);
    expect(found([cohort({ release: '7.1' }), bad])).not.toContain('Fails on quay-4');
    expect(found([bad])).toEqual([]);
  });

  it('does not mix endpoints', () =>
    expect(
      found([cohort({ endpoint: 'GET /a' }), cohort({ endpoint: 'GET /b', host: 'quay-4', failed: 90 })])
    ).toEqual([]));

  it('spreads: mostly through three services or more', () => {
    const far = { services: ['berths', 'pilots', 'gateway'], times: 9 };
    expect(found([], [far])).toEqual(['Starts in berths, seen in gateway']);
    expect(found([], [far, { services: ['berths'], times: 10 }])).toEqual([]);
    expect(found([], [{ services: ['berths', 'pilots', 'berths'], times: 50 }])).toEqual([]);
  });
});
