import { describe, expect, it } from 'vitest';
import { rankCorrelation } from './rank-correlation';

describe('the rank correlation', () => {
  it('is that of the worked example', () => {
    // Hours of television and intelligence of ten people, ρ = −29/165: the example of Wikipedia, "Spearman's rank correlation coefficient" (from memory).
    const iq = [106, 100, 86, 101, 99, 103, 97, 113, 112, 110];
    const hours = [7, 27, 2, 50, 28, 29, 20, 12, 6, 17];
    expect(rankCorrelation(iq, hours)).toBeCloseTo(-29 / 165, 12);
  });

  it('is 1 for what rises together in any way, and not told of too little', () => {
    expect(rankCorrelation([1, 2, 3, 4], [1, 10, 100, 1000])).toBe(1);
    expect(rankCorrelation([1, 2, 3], [3, 2, 1])).toBe(-1);
    expect(rankCorrelation([1, 2], [1, 2])).toBeNull();
    expect(rankCorrelation([1, 2, 3], [5, 5, 5])).toBeNull();
  });
});
