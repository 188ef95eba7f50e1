import { describe, expect, it } from 'vitest';
import { barsInMiddles, throughMiddles } from './bins';
import { durationAxis } from './duration-axis';

const MINUTE = 60e9;
const point = (at: number): { at: number; count: number } => ({ at, count: at });

describe('bars in the middles of bins', () => {
  it('have a place in every bin of the axis, so that none is wider than a bin', () => {
    const bins = { series: [point(200), point(500)], binMs: 100, fromMs: 130, toMs: 660 };
    expect(barsInMiddles(bins, ({ count }) => count)).toEqual([
      [250, 200],
      [350, null],
      [450, null],
      [550, 500],
      [650, null]
    ]);
  });

  it('are one where the axis is one bin, and none where nothing was measured', () => {
    expect(barsInMiddles({ series: [point(100)], binMs: 100, fromMs: 100, toMs: 200 }, () => 7)).toEqual([
      [150, 7]
    ]);
    expect(barsInMiddles({ series: [], binMs: 100, fromMs: 0, toMs: 100 }, () => 7)).toEqual([[50, null]]);
  });
});

describe('a line through the middles of bins', () => {
  it('breaks at each bin without data, and marks what stands between two of them', () => {
    const bins = {
      series: [point(0), point(100), point(300), point(600)],
      binMs: 100,
      fromMs: 0,
      toMs: 700
    };
    expect(throughMiddles(bins, ({ count }) => count)).toEqual([
      [50, 0],
      [150, 100],
      [250, null],
      { value: [350, 300], symbol: 'circle', symbolSize: 4 },
      [450, null],
      { value: [650, 600], symbol: 'circle', symbolSize: 4 }
    ]);
  });
});

describe('an axis of durations', () => {
  it('is left to itself in seconds', () => expect(durationAxis(90e9, 1e6, 3)).toEqual({}));

  it.each([
    [4 * MINUTE, 3, 2],
    [10 * MINUTE, 3, 5],
    [55 * MINUTE, 3, 30],
    [200 * MINUTE, 3, 120]
  ])('of %d ns in %d parts has marks every %d minutes, and ends at one', (greatest, marks, minutes) => {
    const { interval, max } = durationAxis(greatest, 1e6, marks);
    expect(interval).toBe(minutes * 60_000);
    expect(max! % interval!).toBe(0);
    expect(max!).toBeGreaterThanOrEqual(greatest / 1e6);
  });
});
