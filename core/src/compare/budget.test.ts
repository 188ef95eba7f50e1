import { describe, expect, it } from 'vitest';
import { LogNormalSeries } from '../testing/series';
import { shareInterval } from '../stats/share-interval';
import { readBudget, type EndpointBudget } from './budget';
import { sideOf, type ComparedSide } from './compared-side';
import { compareSides } from './comparison';
import { judgeEndpoint } from './judge-endpoint';
import { worstOf, type BudgetState } from './judgement';

const OF = { service: 'berths', endpoint: 'GET /board' };
const side = (durations: Float64Array, more: Partial<ComparedSide> = {}): ComparedSide => ({
  ...sideOf([]),
  durationsNs: durations.map((ms) => Math.round(ms * 1e6)),
  calls: new Float64Array(durations.length).fill(4),
  ...more
});
function judge(
  budget: Partial<EndpointBudget>,
  before: ComparedSide,
  after: ComparedSide,
  strict = false
): BudgetState {
  const comparison = compareSides({ before, after }, { resamples: 300 });
  return worstOf(judgeEndpoint({ ...OF, ...budget }, { after, comparison }, strict));
}

describe('a budget', () => {
  const series = new LogNormalSeries(5, 0);
  const take = (count: number, times = 1): Float64Array => series.take(count, 100 * times);

  it('breaks only where the whole interval lies beyond its limit; strictly, where the figure does', () => {
    const [before, after] = [side(take(300)), side(take(300))];
    const median = compareSides({ before, after }, { resamples: 300 }).sure.changes.median!;
    const limit = (median.sides.after - 1e6) / 1e6;
    expect(judge({ medianMs: limit }, before, after)).toBe('kept');
    expect(judge({ medianMs: limit }, before, after, true)).toBe('broken');
    expect(judge({ medianMs: (median.sidesWithin.after.low - 1e6) / 1e6 }, before, after)).toBe('broken');
  });

  // Durations a fifth apart either way; 500 independent requests a side.
  it('of a slowdown is broken by one of a tenth in 95 of 100, and by none in none of 200', () => {
    const steady = new LogNormalSeries(9, 0, 0.2);
    const broken = (times: number, repetitions: number): number =>
      Array.from({ length: repetitions }, () =>
        judge({ slowerBy: 0.03 }, side(steady.take(500)), side(steady.take(500, 100 * times)))
      ).filter((state) => state === 'broken').length;
    expect(broken(1, 200)).toBe(0);
    expect(broken(1.1, 200)).toBeGreaterThanOrEqual(190);
  });

  it('of calls, failures and findings', () => {
    const before = side(take(100));
    const after = side(take(100), {
      failed: 30,
      findings: [{ rule: 'query-per-row', subject: 'berth', requests: 1 }]
    });
    expect(judge({ callsPerRequest: 4 }, before, after)).toBe('kept');
    expect(judge({ callsPerRequest: 3.9 }, before, after)).toBe('broken');
    expect(judge({ failedShare: 0.25 }, before, after)).toBe('kept');
    expect(judge({ failedShare: 0.2 }, before, after)).toBe('broken');
    expect(judge({ forbidden: ['query-per-row'] }, before, after)).toBe('broken');
    expect(judge({ forbidden: ['retry-storm'] }, before, after)).toBe('kept');
  });

  it('is not told of an endpoint that is not there, has too few requests or nothing to be held against', () => {
    const few = side(take(5));
    expect(judge({ medianMs: 1 }, few, few)).toBe('not told');
    expect(worstOf(judgeEndpoint({ ...OF, medianMs: 1, forbidden: ['query-per-row'] }, null))).toBe(
      'not told'
    );
    expect(judgeEndpoint({ ...OF, slowerBy: 0.1 }, { after: few, comparison: null })[0].reason).toContain(
      'no side A'
    );
    expect(worstOf([])).toBe('not told');
  });
});

describe('a budget file', () => {
  const read = (file: object): string => {
    const result = readBudget(JSON.stringify(file));
    return result.ok ? 'read' : result.message;
  };
  it('is read', () =>
    expect(
      read({
        budget: 1,
        endpoints: [{ ...OF, medianMs: 120, forbidden: ['query-per-row'] }],
        functions: [{ name: 'price', share: 0.1 }],
        heaps: [{ growthBytes: 1e6 }]
      })
    ).toBe('read'));
  it.each([
    [{ budget: 2 }, 'budget: expected version 1'],
    [{ budget: 1, endpoints: [OF, { ...OF, medianMs: 0 }] }, 'endpoints 2 medianMs: expected more than 0'],
    [
      { budget: 1, endpoints: [{ ...OF, forbidden: ['query-per-rwo'] }] },
      'endpoints 1 forbidden 1: expected a rule'
    ],
    [{ budget: 1, endpoints: [{ ...OF, meidanMs: 3 }] }, 'endpoints 1 meidanMs: '],
    [{ budget: 1, functions: [{ name: 'price', share: 3 }] }, 'functions 1 share: expected a share']
  ])('with a typo is refused with its place: %j', (file, words) => expect(read(file)).toContain(words));
  it('that is no JSON is refused', () => expect(readBudget('{')).toMatchObject({ ok: false }));
});

// Source: the worked example of the score interval in R. G. Newcombe, "Two-sided confidence intervals for the single proportion" (1998): 81 of 263 is 0.2553 to 0.3662.
it('a share lies where the published example says', () => {
  const { low, high } = shareInterval(81, 263);
  expect(low).toBeCloseTo(0.2553, 4);
  expect(high).toBeCloseTo(0.3662, 4);
  expect(shareInterval(0, 0)).toEqual({ low: 0, high: 1 });
});
