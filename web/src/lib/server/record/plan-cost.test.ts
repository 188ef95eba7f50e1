import { describe, expect, it } from 'vitest';
import { measuresNext, planCost, withinBudget, type Costed } from './plan-cost';
import type { SlicePlan } from './plan-schema';

const plan = (everyMinutes: number, budget = 0.01): SlicePlan => ({
  address: '127.0.0.1:9229',
  kind: 'cpu',
  calls: 'no',
  seconds: 10,
  interval: 10_000,
  keep: 20,
  when: { by: 'always', everyMinutes, budget, inTurn: '' }
});
const recorded = (more: Partial<Costed>): Costed => ({
  state: 'saved',
  costLow: null,
  costHigh: null,
  cpuDuring: 0.5,
  handlingUs: 60_000,
  startedAtUs: 0,
  ...more
});
const measured = recorded({ costLow: 0.01, costHigh: 0.03, handlingUs: null });

describe('what recording all the time costs', () => {
  it('is what it was measured at, of the time between two recordings', () => {
    // 60 ms to begin and hand over, and 2 % of 10 s at half a core: 160 ms a minute.
    expect(planCost(plan(1), [measured, recorded({})])).toBeCloseTo(0.16 / 60, 9);
    expect(planCost(plan(2), [measured, recorded({})])).toBeCloseTo(0.16 / 120, 9);
    expect(planCost(plan(1), [recorded({})])).toBeCloseTo(0.06 / 60, 9);
  });

  it('is not told before it was measured, nor of what failed', () => {
    expect(planCost(plan(1), [])).toBeNull();
    expect(planCost(plan(1), [measured, recorded({ state: 'failed' })])).toBeNull();
  });

  it('goes by the middle one of the last: one that was disturbed thins nothing', () => {
    const list = [60_000, 61_000, 5_000_000, 59_000, 60_000].map((handlingUs) => recorded({ handlingUs }));
    expect(planCost(plan(1), list)).toBeCloseTo(0.06 / 60, 9);
    expect(withinBudget(plan(1), list)).toBeNull();
  });

  it('thins a plan that costs more than its budget, and ends one that cannot be thinned', () => {
    const costly = [recorded({ handlingUs: 900_000 })];
    const thinned = withinBudget(plan(1), costly)!;
    expect(thinned.when.everyMinutes).toBe(2);
    expect(thinned.note).toMatch(
      /^It cost 1\.5\s?% of a core, more than its budget of 1\s?%: it records every 2 min now\.$/
    );
    expect(withinBudget(thinned, costly)).toBeNull();
    expect(withinBudget(plan(60, 0.0001), costly)).toMatchObject({ ended: true });
    expect(withinBudget(plan(40, 0.0001), costly)?.when.everyMinutes).toBe(60);
  });

  it('is measured at the first recording and every hour', () => {
    expect(measuresNext([], 0)).toBe(true);
    expect(measuresNext([measured, recorded({})], 59 * 60_000)).toBe(false);
    expect(measuresNext([measured, recorded({})], 61 * 60_000)).toBe(true);
  });
});
