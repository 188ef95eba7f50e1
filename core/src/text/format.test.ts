import { describe, expect, it } from 'vitest';
import { formatBytes, formatCount, formatDuration, formatDurationRange, formatShare } from './format';

const plain = (text: string): string => text.replaceAll('\u202f', ' ');

describe('formats', () => {
  it.each([
    [0, '0 ns'],
    [12, '12 ns'],
    [310_000, '310 µs'],
    [84e6, '84 ms'],
    [4.08e6, '4.08 ms'],
    [1.214e9, '1.21 s'],
    [999_600, '1 ms'],
    [59.96e9, '60 s'],
    [600e9, '10 min'],
    [-2e6, '−2 ms']
  ])('%d ns is %s', (ns, text) => expect(formatDuration(ns)).toBe(text));

  it('writes a range of durations, and one where both read alike', () => {
    expect(formatDurationRange(493e6, 1.52e9)).toBe('493 ms to 1.52 s');
    expect(formatDurationRange(11.08e9, 11.12e9)).toBe('11.1 s');
  });

  it('sets thousands apart', () =>
    expect([1842, 12, 1234567, -5000].map(formatCount).map(plain)).toEqual([
      '1 842',
      '12',
      '1 234 567',
      '−5 000'
    ]));
  it('writes shares', () =>
    expect([0.624, 0.0412, 0.00004, 0, NaN].map(formatShare).map(plain)).toEqual([
      '62 %',
      '4.1 %',
      '< 0.1 %',
      '0 %',
      '–'
    ]));
  it('writes bytes', () =>
    expect([512, 4_194_304, 999_950].map(formatBytes).map(plain)).toEqual(['512 B', '4.19 MB', '1 MB']));
});
