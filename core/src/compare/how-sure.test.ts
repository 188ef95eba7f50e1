import { describe, expect, it } from 'vitest';
import { momentsOf } from '../stats/moments';
import { rankTestOf } from '../stats/rank-test';
import { LogNormalSeries } from '../testing/series';
import { howSure } from './how-sure';

const PAIRS = 1000;
const RESAMPLES = 300;
const COUNT = 300;

/** How often something is true of pairs of series without any difference, as a share. */
function shareOf(
  phi: number,
  count: number,
  of: (before: Float64Array, after: Float64Array, seed: number) => boolean
): number {
  const series = new LogNormalSeries(20261129, phi);
  let hits = 0;
  for (let seed = 0; seed < PAIRS; seed++) if (of(series.take(count), series.take(count), seed)) hits++;
  return hits / PAIRS;
}

describe.each([0, 0.5])('intervals by simulation, dependence on the sample before %d', (phi) => {
  it('hold the truth in 92 to 98 of 100, of the median and of p95, of a change of a fifth', () => {
    const series = new LogNormalSeries(7, phi);
    const held = { median: 0, p95: 0, ratio: 0 };
    let told = 0;
    for (let seed = 0; seed < PAIRS; seed++) {
      const after = series.take(COUNT, 1.2 * LogNormalSeries.MIDDLE);
      const { changes } = howSure({ before: series.take(COUNT), after }, { seed, resamples: RESAMPLES });
      const truth = 0.2 * LogNormalSeries.MIDDLE;
      const { differenceWithin: median, ratioWithin: ratio } = changes.median!;
      if (median.low <= truth && truth <= median.high) held.median++;
      if (ratio!.low <= 1.2 && 1.2 <= ratio!.high) held.ratio++;
      // 1.6449 is the 95 % point of the standard normal distribution (tables).
      const tail = truth * Math.exp(LogNormalSeries.SPREAD * 1.6449);
      if (!changes.p95) continue;
      const { low, high } = changes.p95.differenceWithin;
      told++;
      if (low <= tail && tail <= high) held.p95++;
    }
    expect(told).toBeGreaterThan(PAIRS / 2);
    for (const share of [held.median / PAIRS, held.ratio / PAIRS, held.p95 / told]) {
      expect(share).toBeGreaterThanOrEqual(0.92);
      expect(share).toBeLessThanOrEqual(0.98);
    }
  });

  it('call at most 6 of 100 comparisons of two alike clear', () => {
    const wrong = shareOf(phi, COUNT, (before, after, seed) =>
      /er$/.test(howSure({ before, after }, { seed, resamples: RESAMPLES }).verdict)
    );
    expect(wrong).toBeLessThanOrEqual(0.06);
  });
});

it('a rank test that takes dependent samples for independent ones cries wolf; ours does not', () => {
  const plain = shareOf(0.5, COUNT, (before, after) => rankTestOf(before, after)!.p < 0.05);
  expect(plain).toBeGreaterThan(0.15);
});

describe('howSure', () => {
  const series = new LogNormalSeries(11, 0);
  const take = (count: number, times = 1): Float64Array => series.take(count, times * LogNormalSeries.MIDDLE);

  it('says what became faster or slower, by how much, and how sure that is', () => {
    const sure = howSure({ before: take(400), after: take(400, 0.7) });
    expect(sure).toMatchObject({ verdict: 'faster', about: 'median' });
    expect(sure.changes.median!.ratio).toBeCloseTo(0.7, 1);
    expect(sure.faster).toBeGreaterThan(0.6);
    expect(sure.p).toBeLessThan(0.001);
    expect(howSure({ before: take(400, 0.7), after: take(400) }).verdict).toBe('slower');
  });

  it('tells a tail that grew from a middle that stands still', () => {
    const before = take(1000);
    const after = before.map((value) => (value > 1.7 * LogNormalSeries.MIDDLE ? 3 * value : value));
    expect(howSure({ before, after })).toMatchObject({ verdict: 'slower', about: 'p95' });
  });

  it('says what it could have seen: about half of it with four times the samples', () => {
    const visible = (count: number): number =>
      momentsOf(
        Array.from({ length: 20 }, () => howSure({ before: take(count), after: take(count) }).visible!)
      ).mean;
    const [few, many] = [visible(300), visible(1200)];
    expect(few / many).toBeGreaterThan(1.6);
    expect(few / many).toBeLessThan(2.4);
    // A change of that size is seen in about 80 of 100 times.
    const seen = Array.from({ length: 200 }, (_, seed) =>
      howSure({ before: take(300), after: take(300, 1 + few) }, { seed, resamples: RESAMPLES })
    ).filter(({ verdict }) => verdict === 'slower');
    expect(seen.length / 200).toBeGreaterThan(0.65);
    expect(seen.length / 200).toBeLessThan(0.95);
  });

  it('has too few of nine, and of a side without any', () => {
    expect(howSure({ before: take(9), after: take(500, 9) })).toMatchObject({
      verdict: 'too few',
      about: null
    });
    expect(howSure({ before: take(0), after: take(500) })).toMatchObject({
      verdict: 'too few',
      faster: null,
      p: null
    });
  });

  it('tells no p95 of fewer samples than reach beyond it, and no ratio to nothing', () => {
    const { changes } = howSure({ before: take(60), after: take(60) });
    expect([changes.median === null, changes.p95]).toEqual([false, null]);
    const none = howSure({ before: new Float64Array(50), after: take(50) });
    expect(none.changes.median).toMatchObject({ ratio: null, ratioWithin: null });
    expect(none).toMatchObject({ verdict: 'slower', visible: null });
  });

  it('is the same again for the same samples, whole for one value, and says how far it is', () => {
    const sides = { before: take(100), after: take(100) };
    const seen: number[] = [];
    expect(howSure(sides, { onProgress: (share) => seen.push(share) })).toEqual(howSure(sides));
    expect(seen).toEqual(seen.toSorted((a, b) => a - b));
    expect(seen.at(-1)).toBe(1);
    const alike = howSure({ before: new Float64Array(40).fill(7), after: new Float64Array(40).fill(7) });
    expect(alike.verdict).toBe('no clear change');
    expect(alike.p).toBeCloseTo(1, 6);
  });
});
