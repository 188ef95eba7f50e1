import { describe, expect, it } from 'vitest';
import { functionAround, plainName } from './function-around';

const SOURCE = `import { tides } from './tides.js';
export function plan(ships) {
  return ships.map((ship) => tides(ship)).filter(one => one > 2);
}
class Quay {
  async berth(ship) {
    await tides(ship);
  }
}
const once = async ship => tides(ship);
`;
/** A function as V8 tells it: from its first sign to its last. */
const of = (functionName: string, text: string, end = text): Parameters<typeof functionAround>[0][number] => {
  const startOffset = SOURCE.indexOf(text);
  return {
    functionName,
    ranges: [{ startOffset, endOffset: SOURCE.indexOf(end, startOffset) + end.length }]
  };
};
const FUNCTIONS = [
  { functionName: '', ranges: [{ startOffset: 0, endOffset: SOURCE.length }] },
  of('plan', 'function plan', '\n}'),
  of('', '(ship) => tides(ship)'),
  of('', 'one => one > 2'),
  of('berth', 'async berth', '\n  }'),
  of('once', 'async ship => tides(ship)')
];
const lineOf = (text: string): number => SOURCE.split('\n').findIndex((line) => line.includes(text));
const columnOf = (text: string): number => SOURCE.split('\n')[lineOf(text)].indexOf(text);

describe('the function around a line', () => {
  it.each([
    ['the innermost that the line begins in', '  return ships', '', 'plan', 'plan(ships)', 4],
    ['one that begins behind the first word of its line', 'export function', '', 'plan', 'plan(ships)', 4],
    ['a method', 'await tides', 'async Quay.berth', 'berth', 'berth(ship)', 5],
    ['an arrow without brackets', 'const once', '', 'once', 'ship =>', 0]
  ])('is %s', (_, text, name, found, at, beyond) => {
    expect(functionAround(FUNCTIONS, SOURCE, lineOf(text), name)).toEqual({
      name: found,
      lineNumber: lineOf(at),
      columnNumber: columnOf(at) + beyond
    });
  });

  it('is none where nothing ran, and none of the script itself', () => {
    expect(functionAround(FUNCTIONS, SOURCE, 0, '')).toBeNull();
    expect(functionAround([], SOURCE, lineOf('await tides'), '')).toBeNull();
    expect(functionAround(FUNCTIONS, SOURCE, 400, '')).toBeNull();
  });

  it.each([
    ['Object.plan', 'plan'],
    ['async Quay.berth [as book]', 'berth'],
    ['new Quay', 'Quay'],
    ['(anonymous)', ''],
    ['<anonymous>', '']
  ])('is called by its own name: %s', (name, plain) => {
    expect(plainName(name)).toBe(plain);
  });
});
