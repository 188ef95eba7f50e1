import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { blocks, jsonParts } from './json';

const written = (value: unknown): string => [...blocks(jsonParts(value))].join('');
/** A list that is worked out while it is read. */
const lazy = (items: readonly unknown[]): Iterable<unknown> => ({ [Symbol.iterator]: () => items.values() });

describe('JSON in parts', () => {
  it('is what JSON.stringify writes', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        expect(written(value)).toBe(JSON.stringify(value, null, 2));
      })
    );
  });

  it('is so for lists that are worked out while they are read, texts with line ends in them too', () => {
    fc.assert(
      fc.property(fc.array(fc.jsonValue()), (items) => {
        const sample = { text: 'two\nlines', items, none: undefined };
        expect(written({ ...sample, items: lazy(items) })).toBe(JSON.stringify(sample, null, 2));
      })
    );
  });

  it('writes more than a string can hold', () => {
    // One over the 2²⁹ − 24 characters of V8's longest string.
    const item = 'x'.repeat(2 ** 20 - 2);
    const list = lazy(Array.from({ length: 512 }, () => item));
    let length = 0;
    for (const block of blocks(jsonParts(list))) length += block.length;
    expect(length).toBeGreaterThan(2 ** 29);
  });
});
