import { bisectLeft } from 'd3-array';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { lowerBoundBy, lowerBound } from './binary-search';

const ascending = fc
  .array(fc.integer({ min: -20, max: 20 }), { maxLength: 40 })
  .map((list) => list.sort((a, b) => a - b));

it('finds the place d3-array’s bisectLeft finds, also beyond either end and among equals', () => {
  fc.assert(
    fc.property(ascending, fc.integer({ min: -25, max: 25 }), (sorted, value) => {
      expect(lowerBound(sorted, value)).toBe(bisectLeft(sorted, value));
      expect(lowerBound(Float64Array.from(sorted), value)).toBe(bisectLeft(sorted, value));
      expect(lowerBoundBy(sorted.length, (i) => sorted[i], value)).toBe(bisectLeft(sorted, value));
    })
  );
});

it('looks at no more places than halving takes', () => {
  let looked = 0;
  const at = lowerBoundBy(
    1_000_000,
    (i) => {
      looked++;
      return i;
    },
    765_432
  );
  expect([at, looked <= 20]).toEqual([765_432, true]);
});
