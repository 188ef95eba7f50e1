import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { parseWithNumberArrays } from './json-number-arrays';

/** The result with its typed arrays as plain ones. */
const parse = (text: string): unknown => {
  const parsed = parseWithNumberArrays(new TextEncoder().encode(text), ['samples', 'timeDeltas']) as Record<
    string,
    unknown
  > | null;
  if (typeof parsed !== 'object' || parsed === null || Array.isArray(parsed)) return parsed;
  return Object.fromEntries(
    Object.entries(parsed).map(([name, value]) => [
      name,
      value instanceof Float64Array ? Array.from(value) : value
    ])
  );
};

describe('parseWithNumberArrays', () => {
  it('gives what JSON.parse gives, whatever stands around the arrays', () => {
    const numbers = fc.array(fc.integer({ min: -1e9, max: 1e9 }));
    const object = fc.record({
      nodes: fc.jsonValue(),
      samples: fc.oneof(numbers, fc.jsonValue()),
      other: fc.string(),
      timeDeltas: numbers
    });
    fc.assert(
      fc.property(object, fc.constantFrom(undefined, 1, '\t'), (value, space) => {
        const text = JSON.stringify(value, null, space);
        expect(parse(text)).toEqual(JSON.parse(text));
      }),
      { numRuns: 400 }
    );
  });

  it.each([
    '{"a": "samples", "b": {"samples": [1, 2]}, "samples": [3]}',
    '{"b": {"samples": [1, 2]}}',
    '{"c": "\\"samples\\":[9]", "samples": [3]}',
    '{"samples": [1], "samples": [2]}',
    '{"samples": [1.5], "timeDeltas": [-0, 7]}',
    '{"samples": [12345678901234567890]}',
    '{"samples": ["taken: samples"]}',
    '[{"samples": [1]}]',
    '{"timeDeltas": [ ], "samples" : [ 1 , -2 ]}'
  ])('is not misled by %s', (text) => expect(parse(text)).toEqual(JSON.parse(text)));

  it.each([
    '{"samples": [1,,2]}',
    '{"samples": [1 2]}',
    '{"samples": [1',
    '{"samples": [1,]}',
    '{"samples": [01]}',
    '{"samples'
  ])('fails as the parser does on %s', (text) => {
    expect(() => parse(text)).toThrow(SyntaxError);
  });
});
