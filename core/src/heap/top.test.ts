import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { descending, greatest } from './top';

/** Items are places; keys repeat often. */
const keys = fc.array(fc.nat(5), { maxLength: 200 });
const inOrder = (all: readonly number[]): number[] =>
  Array.from(all.keys()).sort((a, b) => all[b] - all[a] || a - b);

describe('the greatest', () => {
  it('are the first of all in order, whatever order they come in', () => {
    fc.assert(
      fc.property(
        keys.chain((all) =>
          fc.tuple(fc.constant(all), fc.shuffledSubarray([...all.keys()], { minLength: all.length }))
        ),
        fc.nat(20),
        fc.nat(20),
        ([all, items], from, most) => {
          expect(greatest(items, (item) => all[item], from, most)).toEqual(
            inOrder(all).slice(from, from + most)
          );
        }
      )
    );
  });

  it('one after another are all of them, however many are found at once', () => {
    fc.assert(
      fc.property(keys, fc.integer({ min: 1, max: 30 }), (all, block) => {
        expect([...descending([...all.keys()], (item) => all[item], block)]).toEqual(inOrder(all));
      })
    );
  });
});
