import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { ROLLUP_DAYS, STEPS } from '$lib/roll-up-steps';
import { wholeBins } from '$lib/scope';
import { binsOf, rangesOf, seriesStep } from './bins';

const NOW = 1_700_000_000_000;
const MINUTE_US = 60e6;
const minutesAgo = (minutes: number): number => (Math.floor(NOW / 60_000) - minutes) * MINUTE_US;

describe('rangesOf', () => {
  it('tiles the window to the minute where minutes are kept, without a gap or an overlap', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: ROLLUP_DAYS[1] * 1440 - 1 }),
        fc.integer({ min: 1, max: 20_000 }),
        (ago, length) => {
          const from = minutesAgo(ago);
          const to = from + length * MINUTE_US;
          const pieces = rangesOf({ fromUs: from, toUs: to }, NOW)
            .map(({ step, from: first, to: last }) => [first * step, last * step])
            .sort((a, b) => a[0] - b[0]);
          expect(pieces[0][0]).toBe(from / MINUTE_US);
          expect(pieces[pieces.length - 1][1]).toBe(to / MINUTE_US);
          for (let i = 1; i < pieces.length; i++) expect(pieces[i][0]).toBe(pieces[i - 1][1]);
        }
      )
    );
  });
  it('tiles any window of whole bins, also where finer ones end', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 500 * 1440 }),
        fc.integer({ min: 1, max: 120 * 1440 }),
        fc.constantFrom(STEPS, [1, 60, 1440] as const),
        (ago, length, steps) => {
          const raw = { fromUs: minutesAgo(ago), toUs: Math.min(minutesAgo(0), minutesAgo(ago - length)) };
          const { fromUs, toUs } = wholeBins(raw, NOW);
          const pieces = rangesOf({ fromUs, toUs }, NOW, steps)
            .map(({ step, from, to }) => [from * step, to * step, step])
            .sort((a, b) => a[0] - b[0]);
          expect(pieces[0][0]).toBe(fromUs / MINUTE_US);
          expect(pieces[pieces.length - 1][1]).toBe(Math.ceil(toUs / MINUTE_US));
          for (let i = 1; i < pieces.length; i++) expect(pieces[i][0]).toBe(pieces[i - 1][1]);
          // Each is kept that far back.
          const now = Math.floor(NOW / 60_000);
          for (const [from, , step] of pieces)
            if (step !== 1440) expect(now - from).toBeLessThanOrEqual(ROLLUP_DAYS[step as 1] * 1440 + step);
        }
      ),
      // Where minutes end: both ends of the window in one hour.
      { numRuns: 2000, examples: [[11_520, 1, STEPS]] }
    );
  });
  it('reads few bins however long the window is', () => {
    for (const days of [1, 7, 30]) {
      const window = { fromUs: minutesAgo(days * 1440 - 7), toUs: minutesAgo(3) };
      const bins = rangesOf(window, NOW).reduce((sum, { from, to }) => sum + to - from, 0);
      expect(bins).toBeLessThan(120);
    }
  });
  it('takes no step finer than is kept so far back, and is silent for an empty window', () => {
    const old = { fromUs: minutesAgo(80 * 1440), toUs: minutesAgo(79 * 1440) };
    for (const { step } of rangesOf(old, NOW)) expect(ROLLUP_DAYS[step]).toBeGreaterThanOrEqual(80);
    expect(rangesOf({ fromUs: minutesAgo(5), toUs: minutesAgo(5) }, NOW)).toEqual([]);
  });
});

describe('seriesStep', () => {
  it('is the finest that needs no more bins than asked', () => {
    const last = (minutes: number): number =>
      seriesStep({ fromUs: minutesAgo(minutes), toUs: minutesAgo(0) }, NOW, 65);
    expect(last(60)).toBe(1);
    expect(last(360)).toBe(10);
    expect(last(1440)).toBe(60);
    expect(last(7 * 1440)).toBe(360);
    expect(last(90 * 1440)).toBe(STEPS[STEPS.length - 1]);
  });
  it('counts the bins a window touches', () => {
    expect(binsOf({ fromUs: 61 * MINUTE_US, toUs: 121 * MINUTE_US }, 60)).toEqual({ from: 1, to: 3 });
  });
});
