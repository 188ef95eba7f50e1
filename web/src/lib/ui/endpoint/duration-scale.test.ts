import fc from 'fast-check';
import { expect, it } from 'vitest';
import { DURATION_CLASSES } from '$lib/endpoint-choices';
import { classesOf, classFrom, classOf, durationTicks } from './duration-scale';

it('has classes of equal ratio: as many to each factor of ten', () => {
  expect(classFrom(0)).toBe(1000);
  expect(classFrom(DURATION_CLASSES)).toBeCloseTo(10_000, 6);
  fc.assert(
    fc.property(fc.double({ min: 1e3, max: 1e12, noNaN: true }), (ns) => {
      const at = Math.floor(classOf(ns));
      expect(classFrom(at)).toBeLessThanOrEqual(ns * 1.000001);
      expect(classFrom(at + 1)).toBeGreaterThan(ns * 0.999999);
    })
  );
});

it('shows every class of all pictures, and at least a factor of ten', () => {
  const narrow = classesOf([[[40, 5]], [[41, 2]]]);
  expect(narrow.count).toBe(DURATION_CLASSES);
  expect(narrow.first).toBeLessThanOrEqual(40);
  expect(narrow.first + narrow.count).toBeGreaterThan(41);
  expect(classesOf([[[10, 1]], [[70, 1]]])).toEqual({ first: 10, count: 61 });
  expect(classesOf([]).count).toBe(DURATION_CLASSES);
});

it('marks round durations, fewer where there is little room', () => {
  const classes = { first: 0, count: DURATION_CLASSES * 3 };
  expect(durationTicks(classes, 20).map((ns) => Math.round(ns / 1000))).toEqual([
    1, 2, 5, 10, 20, 50, 100, 200, 500, 1000
  ]);
  expect(durationTicks(classes, 5).map((ns) => Math.round(ns / 1000))).toEqual([1, 10, 100, 1000]);
  expect(durationTicks(classes, 1)).toEqual([]);
});
