import { describe, expect, it } from 'vitest';
import type { Recording } from '$lib/server/queries/recordings';
import { costWords, nameOf } from './recording-words';

const recording = (change: Partial<Recording>): Recording =>
  ({
    kind: 'cpu',
    service: 'tides',
    pid: 42,
    costLow: 0.01,
    costHigh: 0.03,
    cpuBefore: 0.4,
    cpuDuring: 0.42,
    ...change
  }) as Recording;
const words = (change: Partial<Recording>): string => costWords(recording(change)).replaceAll(/\s/gu, ' ');

describe('what a recording cost', () => {
  it('is a range, or the most it can be where noise hides it', () => {
    expect(words({})).toBe(
      'The same work took 1 % to 3 % longer while it was sampled. All its threads used 40 % of a core in the second before, 42 % meanwhile.'
    );
    expect(words({ costLow: -0.02 })).toContain('took at most 3 % longer');
    expect(words({ costLow: -0.02, costHigh: -0.01 })).toContain('took no longer');
  });

  it('is said not to be known where it was not measured, and of a dump elsewhere', () => {
    expect(words({ costLow: null, costHigh: null, cpuBefore: null })).toBe(
      'What it cost could not be measured.'
    );
    expect(words({ kind: 'heap' })).toBe('');
    expect(nameOf(recording({ service: '', pid: 0 }))).toBe('a process');
  });
});
