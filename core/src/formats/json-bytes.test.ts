import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { JsonBytes, NotPlain } from './json-bytes';

const over = (text: string): JsonBytes => new JsonBytes(new TextEncoder().encode(text));
const keyOf = (name: string): Uint8Array => new TextEncoder().encode(name);

/** What the walk makes of an object with one list of numbers and other members; null where it gives up. */
function walked(text: string): Record<string, unknown> | null {
  const json = over(text);
  const found: Record<string, unknown> = {};
  try {
    for (let more = json.openObject(); more; more = json.moreMembers()) {
      json.key();
      const name = new TextDecoder().decode(json.bytes.subarray(json.from, json.to));
      found[name] = json.isKey(keyOf('numbers')) ? [...json.numbers()] : json.value();
    }
    json.end();
    return found;
  } catch (cause) {
    if (cause instanceof NotPlain) return null;
    throw cause;
  }
}

const parses = (text: string): unknown => {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
};

describe('a walk through JSON by its bytes', () => {
  // Outside check: the language's own parser (ECMA-262, JSON.parse).
  it('finds what JSON.parse finds, however it is spaced', () => {
    const numbers = fc.array(fc.integer({ min: -(2 ** 53) + 1, max: 2 ** 53 - 1 }));
    const object = fc.record({ numbers, a: fc.jsonValue(), 'long name': fc.string(), z: fc.jsonValue() });
    fc.assert(
      fc.property(object, fc.constantFrom(undefined, 1, '\t', '\r\n'), (value, space) => {
        const text = JSON.stringify(value, null, space);
        expect(walked(text)).toEqual(JSON.parse(text));
      }),
      { numRuns: 400 }
    );
  });

  it('never finds what JSON.parse does not: with any byte changed it finds the same, or gives up', () => {
    const text = '{"numbers":[1,20,-3,0,123456789,1234567890123],"b":{"c":[true,"]}"]},"numbers":[7]}';
    fc.assert(
      fc.property(fc.nat(text.length - 1), fc.constantFrom(...'0-,]}["{: .ex\n\\'), (at, sign) => {
        const changed = text.slice(0, at) + sign + text.slice(at + 1);
        const found = walked(changed);
        if (found !== null) expect(found).toEqual(parses(changed));
      }),
      { numRuns: 2000 }
    );
  });

  it('gives up on a text that is cut off, wherever it is', () => {
    const text = '{"numbers":[1,20,-3],"b":{"c":"x"}}';
    for (let end = 0; end < text.length; end++) expect(walked(text.slice(0, end))).toBeNull();
  });

  it.each([
    '{"numbers":[1.5]}',
    '{"numbers":[1e3]}',
    '{"numbers":[01]}',
    '{"numbers":[1,,2]}',
    '{"numbers":[1 2]}',
    '{"numbers":[1,]}',
    '{"numbers":[12345678901234567890]}',
    '{"numbers":["1"]}',
    '{"num\\u0062ers":[1]}',
    '{,"numbers":[1]}',
    '{"numbers":[1]} x',
    '[1]'
  ])('gives up on %s', (text) => expect(walked(text)).toBeNull());

  it('ends an object at the brace that may close it, and goes on to the next where it did not', () => {
    const json = over('{"name":"a}b"},{}');
    json.likelyObject();
    expect([json.from, json.to]).toEqual([0, 11]);
    json.further();
    expect(json.parsed(json.from, json.to)).toEqual({ name: 'a}b' });
  });
});
