import { describe, expect, it } from 'vitest';
import type { Frame } from '../profile/model';
import type { ScopeSlice } from '../profile/sums/scope-sums';
import type { StackDictionary } from '../profile/sums/stack-sums';
import { writeStackWeights } from '../profile/sums/stack-weights';
import { Draws } from '../stats/draws';
import { functionSinceRelease } from './function-since-release';

const frame = (name: string, kind: Frame['kind'] = 'app', line = 1): Frame => ({
  name,
  file: kind === 'app' ? '/quay/tides.js' : '',
  line,
  column: 1,
  package: '',
  kind
});
/** Stacks 1 serve, 2 serve;parse, 3 serve;parse;exec (of the runtime), 4 serve;format; of the later release at other lines 5, 6, 7, 8. */
const DICTIONARY: StackDictionary = {
  frames: [
    frame('serve'),
    frame('parse', 'app', 10),
    frame('exec', 'native'),
    frame('format', 'app', 30),
    frame('serve', 'app', 2),
    frame('parse', 'app', 14),
    frame('format', 'app', 34)
  ],
  stack: Int32Array.of(1, 2, 3, 4, 5, 6, 7, 8),
  parent: Int32Array.of(0, 1, 2, 1, 0, 5, 6, 5),
  frame: Int32Array.of(0, 1, 2, 3, 4, 5, 2, 6)
};
const RELEASES = [
  { id: 2, name: '7.3', firstUs: 100 },
  { id: 1, name: '7.2', firstUs: 50 }
];

/** Slices of one release: of a request so many microseconds by stack, give or take a fifth. */
function slices(release: number, count: number, each: Record<number, number>, seed: number): ScopeSlice[] {
  const draws = new Draws(seed);
  const draw = (): number => draws.next() / 2 ** 32;
  return Array.from({ length: count }, (_, i) => {
    const requests = 4 + Math.floor(draw() * 5);
    const weights = new Map(
      Object.entries(each).map(([stack, us]) => [
        Number(stack),
        Math.round(us * requests * (0.8 + 0.4 * draw()))
      ])
    );
    const bytes = writeStackWeights(weights);
    const busyUs = [...weights.values()].reduce((sum, us) => sum + us, 0);
    return {
      process: 'tides',
      startUs: release * 1e9 + i * 5e6,
      lengthUs: 5e6,
      spanUs: 5e6,
      samples: 500,
      busyUs,
      idleUs: 0,
      release,
      weights: bytes,
      endpoints: [{ endpoint: 9, requests, busyUs, sharedUs: 0, weights: bytes }]
    };
  });
}
const found = (before: ScopeSlice[], after: ScopeSlice[]) =>
  functionSinceRelease.find({ dictionary: DICTIONARY, slices: [...before, ...after], releases: RELEASES });

describe('function-since-release', () => {
  const before = slices(1, 8, { 1: 1000, 2: 500, 3: 500, 4: 3000 }, 1);

  it('names the function that takes more since a release, though its lines moved and a library does its work', () => {
    const [first, ...others] = found(before, slices(2, 8, { 5: 1000, 6: 500, 7: 3500, 8: 3000 }, 2));
    expect(others).toEqual([]);
    expect(first.frame.name).toBe('parse');
    expect(first.releases).toEqual({ before: '7.2', after: '7.3' });
    expect(first.figures.ratio).toBeGreaterThan(3);
    expect(first.figures.tested).toBe(3);
    expect(first.sentence).toMatch(
      /^Since release 7\.3, parse \(quay\/tides\.js:\d+\) takes .* of CPU a request, [34]\.\d times the .* under 7\.2;/
    );
  });

  it('says nothing of what only varies', () => {
    expect(found(before, slices(2, 8, { 5: 1000, 6: 500, 7: 500, 8: 3000 }, 3))).toEqual([]);
  });

  it('says nothing of too few slices, or of what the endpoint would not notice', () => {
    const slower = { 5: 1000, 6: 500, 7: 3500, 8: 3000 };
    expect(found(before, slices(2, 4, slower, 4))).toEqual([]);
    expect(found(before, slices(2, 8, { 5: 1000, 6: 550, 7: 650, 8: 3000 }, 5))).toEqual([]);
  });

  it('of a function that is new says that there was none', () => {
    const without = slices(1, 8, { 1: 1000, 4: 3000 }, 6);
    expect(found(without, slices(2, 8, { 5: 1000, 6: 2000, 8: 3000 }, 7))[0].sentence).toContain(
      'nothing of it under 7.2'
    );
  });
});
