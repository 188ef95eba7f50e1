import { describe, expect, it } from 'vitest';
import { queueRun, runOf } from '../testing/load-run';
import { findInLoad } from './load-findings';

const rulesIn = (run: Parameters<typeof findInLoad>[0]): string[] => findInLoad(run).map(({ rule }) => rule);
const steady = (count: number, durationUs: number, more: object = {}) =>
  Array.from({ length: count }, (_, i) => ({ intendedUs: i * 20_000, durationUs, ...more }));

describe('piles-up', () => {
  // Outside check: one server of 10 ms has 100 answers a second whatever comes; by Little's law with 10 users each waits 100 ms.
  it('is found where more users get no more answers, only wait longer', () => {
    const run = queueRun({ users: 10, rampUpSeconds: 10, loops: 400 }, { servers: 1, serviceUs: 10_000 });
    const found = findInLoad(run).find(({ rule }) => rule === 'piles-up')!;
    expect(found.severity).toBe('high');
    expect(Number(found.figures.crowdedThroughput)).toBeCloseTo(100, 0);
    expect(Number(found.figures.follows)).toBeLessThan(0.05);
    expect(Number(found.figures.crowdedNs)).toBeCloseTo(Number(found.figures.crowdedUnderWay) * 1e7, -6);
    expect(found.sentence).toContain('they wait for one another');
  });

  it('is not found where as many are served as come', () =>
    expect(
      rulesIn(queueRun({ users: 10, rampUpSeconds: 10, loops: 400 }, { servers: 10, serviceUs: 10_000 }))
    ).not.toContain('piles-up'));

  it('is not found where users are as many all the time: nothing tells how it was with fewer', () =>
    expect(rulesIn(queueRun({ users: 10, loops: 100 }, { servers: 1, serviceUs: 10_000 }))).not.toContain(
      'piles-up'
    ));

  it('is found where arrivals come faster than they are served', () => {
    // 125 arrivals a second, 100 served: the queue grows by 25 every second.
    const samples = Array.from({ length: 1250 }, (_, i) => ({
      intendedUs: i * 8000,
      durationUs: (i + 1) * 10_000 - i * 8000,
      user: i
    }));
    expect(rulesIn(runOf({ rate: 125, loops: 1250 }, samples))).toContain('piles-up');
  });
});

describe('warm-up', () => {
  it('says how many of the first requests were slower', () => {
    const samples = steady(100, 20_000).map((one, i) => (i < 3 ? { ...one, durationUs: 400_000 } : one));
    const [found] = findInLoad(runOf({ loops: 100 }, samples));
    expect(found).toMatchObject({ rule: 'warm-up', figures: { first: 3, meanNs: 4e8, usualNs: 2e7 } });
    expect(found.sentence).toBe(
      'The first 3 requests of GET /board took 400 ms on average; the second half of the run has a median of 20 ms.'
    );
  });

  it.each<[string, number, number, number]>([
    ['where all are alike', 0, 20_000, 100],
    ['where a few milliseconds are all', 3, 22_000, 100],
    ['of fewer requests than tell', 3, 400_000, 15]
  ])('is not found %s', (_, first, firstUs, count) => {
    const samples = steady(count, 20_000).map((one, i) =>
      i < first ? { ...one, durationUs: firstUs } : one
    );
    expect(rulesIn(runOf({ loops: count }, samples))).toEqual([]);
  });

  it('is not found where slow ones come all along', () => {
    const samples = steady(100, 20_000).map((one, i) =>
      i % 5 === 0 ? { ...one, durationUs: 400_000 } : one
    );
    expect(rulesIn(runOf({ loops: 100 }, samples))).toEqual([]);
  });

  it('of each step is told by its own usual time', () => {
    const steps = [{ url: 'http://127.0.0.1/slow' }, { url: 'http://127.0.0.1/fast' }];
    const samples = steady(100, 20_000).map((one, i) => ({
      ...one,
      step: i % 2,
      durationUs: i % 2 === 0 ? 900_000 : 20_000
    }));
    expect(rulesIn(runOf({ steps, loops: 50 }, samples))).toEqual([]);
  });
});

describe('driver-late', () => {
  it('comes first, since no figure can be trusted then', () => {
    const samples = steady(200, 20_000).map((one, i) => ({
      ...one,
      lateUs: i % 20 === 0 ? 30_000 : 100,
      durationUs: i < 3 ? 900_000 : 20_000
    }));
    const found = findInLoad(runOf({ loops: 200 }, samples));
    expect(found.map(({ rule }) => rule)).toEqual(['driver-late', 'warm-up']);
    expect(found[0]).toMatchObject({ severity: 'high', figures: { lateP99Ns: 3e7 } });
  });

  it.each<[string, number, number]>([
    ['under 5 ms', 4000, 20_000],
    ['under a tenth of the median', 8000, 200_000]
  ])('is not found %s', (_, lateUs, durationUs) =>
    expect(rulesIn(runOf({ loops: 200 }, steady(200, durationUs, { lateUs })))).toEqual([])
  );
});
