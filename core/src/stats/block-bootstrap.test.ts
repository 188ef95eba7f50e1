import { expect, it } from 'vitest';
import { resampleQuantiles } from './block-bootstrap';
import { Draws } from './draws';
import { quantiles } from './percentile';

it('gives the very quantiles of each resample, sorted', () => {
  const draw = new Draws(77);
  for (const [n, blockLength] of [
    [1, 1],
    [2, 2],
    [37, 4],
    [400, 8],
    [3000, 15]
  ]) {
    // Many ties, and neighbours alike.
    const values = Float64Array.from({ length: n }, (_, i) => Math.floor(draw.share() * 50) + (i % 97));
    const ps = [0, 0.5, 0.95, 1];
    const found = resampleQuantiles(values, ps, { blockLength, resamples: 20, seed: 3 });
    const draws = new Draws(3);
    for (let resample = 0; resample < 20; resample++) {
      const drawn: number[] = [];
      while (drawn.length < n) {
        const from = Math.floor(draws.share() * (n - blockLength + 1));
        drawn.push(...values.slice(from, from + Math.min(blockLength, n - drawn.length)));
      }
      expect(found.map((column) => column[resample])).toEqual(quantiles(drawn, ps));
    }
  }
});
