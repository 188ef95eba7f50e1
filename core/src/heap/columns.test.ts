import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { ByteCursor, bytesSource, EndOfBytes } from './byte-source';
import { MemoryColumns } from './column-store';
import { GrowableArray } from './growable-array';
import { JsonScan } from './json-scan';
import { PiecewiseColumn } from './piecewise-column';

const encode = (text: string): Uint8Array => new TextEncoder().encode(text);
/** A window as small as they come: everything lies across its edge. */
const SMALL = 16;
const scanOf = (text: string, window = SMALL): { scan: JsonScan; cursor: ByteCursor } => {
  const cursor = new ByteCursor(bytesSource(encode(text)), 0, window);
  return { scan: new JsonScan(cursor), cursor };
};

describe('numbers of which nobody knows how many come', () => {
  it('are those that came, however little room there was thought to be', () => {
    fc.assert(
      fc.property(fc.array(fc.nat()), fc.nat(40), (numbers, expected) => {
        const growing = new GrowableArray(Float64Array, expected);
        for (const number of numbers) growing.push(number);
        expect([...growing.take()]).toEqual(numbers);
        expect([growing.length, growing.items.length]).toEqual([0, 0]);
      })
    );
  });

  it('may be written at once into room that was asked for', () => {
    const growing = new GrowableArray(Uint32Array, 1);
    growing.push(5);
    const items = growing.reserve(100);
    for (let i = 0; i < 100; i++) items[growing.length++] = i;
    expect(growing.take()).toEqual(Uint32Array.of(5, ...Array(100).keys()));
  });
});

describe('a column written number by number', () => {
  it.each([0, 1, 65_535, 65_536, 65_537, 200_000])('holds all of %d', (length) => {
    const columns = new MemoryColumns();
    const column = new PiecewiseColumn(columns, 'shallow', Uint32Array);
    for (let i = 0; i < length; i++) column.push(i * 3);
    expect(column.finish()).toBe(length);
    const whole = columns.get('shallow');
    expect(whole).toHaveLength(length);
    for (let i = 0; i < length; i += 1009) expect(whole[i]).toBe(i * 3);
  });

  it('is filled up with 0 where a dump broke off', () => {
    const columns = new MemoryColumns();
    const column = new PiecewiseColumn(columns, 'kind', Uint8Array);
    column.push(2);
    expect(column.finish(3)).toBe(3);
    expect(columns.get('kind')).toEqual(Uint8Array.of(2, 0, 0));
  });
});

describe('lists of numbers in a large JSON text', () => {
  const groups = (text: string, groupOf: number): { numbers: number[]; left: number; rest: string } => {
    const { scan, cursor } = scanOf(text);
    const numbers: number[] = [];
    const left = scan.numbers(groupOf, (block, count) => {
      for (let i = 0; i < count * groupOf; i++) numbers.push(block[i] >>> 0);
    });
    return { numbers, left, rest: text.slice(cursor.position) };
  };
  const number = fc.oneof(
    fc.nat(9),
    fc.nat(99_999),
    fc.nat(999_999_999),
    fc.integer({ min: 0, max: 2 ** 32 - 1 })
  );

  // Outside check: the language's own parser (ECMA-262, JSON.parse).
  it('are those that JSON.parse finds, however they are spaced', () => {
    fc.assert(
      fc.property(
        fc.array(number, { maxLength: 80 }),
        fc.constantFrom(',', '\n,', ', ', ' ,\r\n', ',\n'),
        (list, comma) => {
          const text = `[${list.join(comma)}]`;
          expect(JSON.parse(text)).toEqual(list);
          expect(groups(`${text},"strings"`, 1)).toEqual({ numbers: list, left: 0, rest: ',"strings"' });
        }
      ),
      { numRuns: 300 }
    );
  });

  it('come in whole groups; what is left over is counted', () => {
    expect(groups('[1,2,3,4,5,6,7]', 3)).toMatchObject({ numbers: [1, 2, 3, 4, 5, 6], left: 1 });
    expect(groups('[]', 3)).toMatchObject({ numbers: [], left: 0 });
  });

  it('are handed over block by block where there are very many', () => {
    const list = Array.from({ length: 200_000 }, (_, i) => i % 1000);
    const { scan } = scanOf(`[${list.join(',')}]`, 4096);
    const blocks: number[] = [];
    let sum = 0;
    scan.numbers(2, (block, count) => {
      blocks.push(count);
      for (let i = 0; i < count * 2; i++) sum += block[i];
    });
    expect(blocks.length).toBeGreaterThan(2);
    expect(blocks.reduce((all, count) => all + count, 0)).toBe(100_000);
    expect(sum).toBe(list.reduce((all, one) => all + one, 0));
  });

  it.each([
    ['[1.5]', /integers.*“\.” at byte 2/],
    ['[1e3]', /integers.*“e”/],
    ['[1,,2]', /a number at byte 3/],
    ['[1,"2"]', /a number at byte 3/],
    ['[1 x]', /a number at byte 3|Expected a number/],
    ['{}', /a list of numbers at byte 0/]
  ])('that are none are worded: %s', (text, words) => expect(() => groups(text, 1)).toThrow(words));

  it('that break off end with the bytes', () => {
    for (const text of ['[1,2', '[1,', '[', '[12345678']) expect(() => groups(text, 1)).toThrow(EndOfBytes);
  });
});

describe('a value that is skipped', () => {
  it('ends where JSON.parse says it does, whatever it holds', () => {
    fc.assert(
      fc.property(
        fc.jsonValue(),
        fc.constantFrom(undefined, 1),
        fc.constantFrom(SMALL, 4096),
        (value, space, window) => {
          const text = JSON.stringify(value, null, space);
          const { scan, cursor } = scanOf(`${text},"next":1}`, window);
          scan.skip();
          expect(cursor.position).toBe(encode(text).length);
        }
      ),
      { numRuns: 400 }
    );
  });

  it('may be a list of numbers longer than the window, with something nested at its end', () => {
    const plain = `[${Array.from({ length: 5000 }, (_, i) => i).join(',')}`;
    for (const end of [']', ',[1,"]"]]', ',"]"]', ',{"a":[]}]']) {
      const { scan, cursor } = scanOf(`${plain}${end}}`, 256);
      scan.skip();
      expect(cursor.position).toBe(plain.length + end.length);
    }
  });
});

describe('the keys of an object', () => {
  it('come one after another, each with its value to read or to skip', () => {
    const { scan } = scanOf('{ "a" : [1,2] , "b\\u00e9" : {"x":[3]}, "__proto__": 7 }');
    const keys: string[] = [];
    for (const key of scan.keys()) {
      keys.push(key);
      if (key === 'a') scan.numbers(1, () => undefined);
      else if (key === '__proto__') expect(scan.value()).toBe(7);
      else scan.skip();
    }
    expect(keys).toEqual(['a', 'bé', '__proto__']);
  });

  it('tell where each text of a list begins', () => {
    const text = '["", "a\\"b", "]", "\\\\"]';
    const { scan } = scanOf(text);
    expect([...scan.strings()].map((at) => text.slice(at, at + 2))).toEqual(['""', '"a', '"]', '"\\']);
  });
});
