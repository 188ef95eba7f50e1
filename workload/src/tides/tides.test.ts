import { describe, expect, it } from 'vitest';
import { WindowCache } from './cache';
import { stationFeed } from './feed';
import { harmonicSum, highWater, type Constituent } from './harmonic';
import { parseStamp } from './stamp';

const TIME = Date.UTC(2026, 2, 1, 10, 30);

describe('parseStamp', () => {
  it.each(['2026-03-01T10:30:00.000Z', '01.03.2026 10:30', '01/03/2026 10:30', '20260301T1030'])(
    'reads %s, whichever form is tried first',
    (text) => {
      expect(parseStamp(text, true)).toBe(TIME);
      expect(parseStamp(text, false)).toBe(TIME);
    }
  );
  it('says what no form fits', () =>
    expect(() => parseStamp('high noon', true)).toThrow(/no form fits: high noon/));
  it('reads every line of a station', () => {
    for (const line of stationFeed(7)) expect(parseStamp(line, true)).toBe(Date.parse(line));
  });
});

describe('harmonicSum', () => {
  // Common practice: a single constituent is a cosine of its speed (degrees an hour), here with its nodal factor.
  const one: Constituent[] = [{ amplitude: 2, speed: 30, phase: 0 }];
  it('is highest at its phase and lowest half a period later', () => {
    expect(harmonicSum(one, 0)).toBeGreaterThan(1.9);
    expect(harmonicSum(one, 6)).toBeCloseTo(-harmonicSum(one, 0), 9);
    expect(harmonicSum(one, 12)).toBeCloseTo(harmonicSum(one, 0), 9);
  });
  it('finds the high water of the next day and a half', () => {
    const heights = new Float64Array(2048);
    const high = highWater(one, 0, heights);
    expect((high / 3_600_000) % 12).toBeCloseTo(0, 1);
    expect(Math.max(...heights)).toBeLessThanOrEqual(2 * 1.04);
  });
});

describe('WindowCache', () => {
  it('computes once for each key, and forgets the oldest beyond its limit', () => {
    const cache = new WindowCache<string>(2);
    let computed = 0;
    const get = (key: string): string => cache.get(key, () => `${key}${computed++}`);
    expect([get('a'), get('a'), get('b'), get('c'), get('a')]).toEqual(['a0', 'a0', 'b1', 'c2', 'a3']);
  });
});
