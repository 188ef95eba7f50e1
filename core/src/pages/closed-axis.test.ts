import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { CLOSED_MS, closedAxis, IDLE_MS, lengthOf, placeOn, type Stretch } from './closed-axis';

const stretch = (fromMs: number, toMs: number): Stretch => ({ fromMs, toMs });

describe('an axis on which idle time is closed up', () => {
  it('keeps what happened as long as it was, and closes what lay between', () => {
    const axis = closedAxis([stretch(100_000, 101_500), stretch(0, 2000), stretch(1500, 4000)]);
    expect(axis).toEqual([
      { fromMs: 0, toMs: 4000, at: 0, length: 4000, isIdle: false },
      { fromMs: 4000, toMs: 100_000, at: 4000, length: CLOSED_MS, isIdle: true },
      { fromMs: 100_000, toMs: 101_500, at: 5000, length: 1500, isIdle: false }
    ]);
    expect(lengthOf(axis)).toBe(6500);
    expect(placeOn(axis, 1234)).toBe(1234);
    expect(placeOn(axis, 52_000)).toBe(4500);
    expect(placeOn(axis, 100_700)).toBe(5700);
    expect([placeOn(axis, -5), placeOn(axis, 1e9)]).toEqual([0, 6500]);
  });

  it('leaves a short pause as it is', () => {
    expect(closedAxis([stretch(0, 100), stretch(100 + IDLE_MS, 6000)])).toHaveLength(1);
    expect(closedAxis([stretch(0, 100), stretch(101 + IDLE_MS, 6000)])).toHaveLength(3);
  });

  it('has a place for moments, and none for nothing', () => {
    const axis = closedAxis([stretch(50, 50), stretch(60_000, 59_000)]);
    expect(lengthOf(axis)).toBe(CLOSED_MS);
    expect([placeOn(axis, 50), placeOn(axis, 60_000)]).toEqual([0, CLOSED_MS]);
    expect(closedAxis([])).toEqual([]);
    expect([lengthOf([]), placeOn([], 5)]).toEqual([0, 0]);
  });

  it('never goes back, and is never longer than the time', () => {
    const any = fc.array(fc.tuple(fc.nat(200_000), fc.nat(9000)), { minLength: 1, maxLength: 20 });
    fc.assert(
      fc.property(any, fc.array(fc.nat(250_000), { maxLength: 20 }), (list, moments) => {
        const stretches = list.map(([from, long]) => stretch(from, from + long));
        const axis = closedAxis(stretches);
        const sorted = moments.toSorted((a, b) => a - b).map((ms) => placeOn(axis, ms));
        expect(sorted).toEqual(sorted.toSorted((a, b) => a - b));
        const [first, last] = [axis[0].fromMs, axis.at(-1)!.toMs];
        expect(lengthOf(axis)).toBeLessThanOrEqual(last - first);
        for (const { fromMs, toMs } of stretches)
          expect(placeOn(axis, toMs) - placeOn(axis, fromMs)).toBeCloseTo(toMs - fromMs, 6);
        axis.slice(1).forEach((piece, i) => expect(piece.fromMs).toBe(axis[i].toMs));
      })
    );
  });
});
