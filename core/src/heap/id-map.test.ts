import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { idMap } from './id-map';
import { greatest } from './top';

describe('objects by object id', () => {
  it.each([
    ['dense addresses', fc.integer({ min: 0, max: 5000 }).map((i) => 0x7_0000_0000 + i * 8)],
    ['any numbers', fc.integer({ min: 1, max: 2 ** 31 })],
    ['addresses far apart', fc.integer({ min: 0, max: 40 }).map((i) => 1 + i * 2 ** 44)]
  ])('are found as in a Map: %s', (_, id) => {
    fc.assert(
      fc.property(
        fc.array(id, { minLength: 1, maxLength: 200 }),
        fc.array(id, { maxLength: 20 }),
        (ids, others) => {
          const map = idMap(Float64Array.from(ids));
          const naive = new Map<number, number>();
          ids.forEach((one, i) => !naive.has(one) && naive.set(one, i));
          for (const one of [...ids, ...others, 0, 3]) expect(map.indexOf(one)).toBe(naive.get(one) ?? -1);
          expect(map.duplicates).toBe(ids.length - naive.size);
        }
      )
    );
  });

  it('gives the greatest, as sorting does', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(50)), fc.nat(10), fc.nat(20), (keys, from, most) => {
        const items = keys.map((_, i) => i);
        const sorted = [...items].sort((a, b) => keys[b] - keys[a] || a - b).slice(from, from + most);
        expect(greatest(items, (i) => keys[i], from, most).map((i) => keys[i])).toEqual(
          sorted.map((i) => keys[i])
        );
      })
    );
  });
});
