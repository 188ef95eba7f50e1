import { describe, expect, it } from 'vitest';
import { Rate } from './rate';

describe('a rate', () => {
  it('lets so many through at once, and no more before time has gone by', () => {
    const rate = new Rate(60, 0);
    const taken = Array.from({ length: 100 }, () => rate.take(0)).filter(Boolean);
    expect(taken).toHaveLength(60);
    expect(rate.take(900)).toBe(false);
    expect(rate.take(1100)).toBe(true);
    expect(rate.take(1100)).toBe(false);
  });
  it('gathers no more than a minute’s worth', () => {
    const rate = new Rate(5, 0);
    expect(Array.from({ length: 50 }, () => rate.take(3_600_000)).filter(Boolean)).toHaveLength(5);
  });
});
