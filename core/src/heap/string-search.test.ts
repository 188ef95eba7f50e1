import { readFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { indexed } from '../testing/heap-store';
import { bytesSource } from './byte-source';
import type { HeapStore } from './heap-store';
import { textOfObject } from './object-facts';
import { placesOf, textsHolding } from './string-search';

const read = (path: string): HeapStore =>
  indexed(new Uint8Array(gunzipSync(readFileSync(new URL(path, import.meta.url)))));
const snapshot = read('../../../workload/recordings/heap-tides-1.heapsnapshot.gz');
const java = read('../../fixtures/heap/tides.hprof.gz');

/** Every object asked for its text: of these the search must find just those that hold what is sought. */
const textsOf = (store: HeapStore): [object: number, text: string][] =>
  Array.from({ length: store.meta.count }, (_, object) => object).flatMap((object) => {
    const text = textOfObject(store, object, 100_000);
    return text === null ? [] : [[object, text.toLowerCase()]];
  });

describe('objects by their text', () => {
  it.each([
    ['a snapshot', snapshot, ['Northgate', 'northGATE', 'tide', 'n', '"', '\\', '\n', 'no such text']],
    ['a Java dump', java, ['Northgate', 'ebbe ⚓', '⚓', 'OUTER', 'window', 'no such text']]
  ])('are those that one by one hold it, in %s', (_, store, words) => {
    const texts = textsOf(store);
    for (const word of words) {
      const expected = texts
        .filter(([, text]) => text.includes(word.toLowerCase()))
        .map(([object]) => object);
      expect(textsHolding(store, word, Infinity), word).toEqual(expected);
    }
    expect(textsHolding(store, 'north', 3)).toHaveLength(3);
    expect(textsHolding(store, '', 3)).toEqual([]);
  });
});

describe('places of byte sequences', () => {
  it('are those a comparison at each place finds, letters of either case alike', () => {
    const letters = fc
      .array(fc.constantFrom(...'aAbB\u0000 '), { maxLength: 60 })
      .map((list) => list.join(''));
    const needle = fc
      .array(fc.constantFrom(...'aAbB '), { minLength: 1, maxLength: 3 })
      .map((list) => list.join(''));
    fc.assert(
      fc.property(letters, needle, fc.nat(5), (text, sought, from) => {
        const encode = (one: string): Uint8Array => new TextEncoder().encode(one);
        const expected: number[] = [];
        for (let at = from; at + sought.length <= text.length; at++)
          if (text.slice(at, at + sought.length).toLowerCase() === sought.toLowerCase()) expected.push(at);
        expect([...placesOf(bytesSource(encode(text)), from, [encode(sought)])]).toEqual(expected);
      })
    );
  });

  it('are found where they lie across two pieces', () => {
    const bytes = new Uint8Array(4 * 1024 * 1024 + 100);
    const at = 4 * 1024 * 1024 - 2;
    bytes.set(new TextEncoder().encode('tides'), at);
    expect([...placesOf(bytesSource(bytes), 0, [new TextEncoder().encode('TIDES')])]).toEqual([at]);
  });
});
