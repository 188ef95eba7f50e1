import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { FlameLayout } from '@tromix/core/profile/flame-layout';
import { boxAt, clampZoom, firstVisible, indexRows, zoomAt } from '$lib/ui/profile/flame-view';
import { toCsv } from '@tromix/core/text/csv';
import { ticksOf } from './rail/ticks';
import { sortRows } from './tables/sort';
import { combPath, penPath, rowsBetween, rowTops, SPAN_HEIGHT } from '$lib/ui/request/pen-line';
import { roundTicks } from '$lib/ui/request/round-ticks';

const layout: FlameLayout = {
  node: Int32Array.from([0, 1, 2, 3]),
  depth: Int32Array.from([0, 1, 1, 2]),
  x: Float64Array.from([0, 0, 0.6, 0.6]),
  width: Float64Array.from([1, 0.5, 0.4, 0.2]),
  parent: Int32Array.from([-1, 0, 0, 2]),
  rows: 3
};

describe('flame view', () => {
  const rows = indexRows(layout);
  it('finds the box under a point, and none in a gap', () => {
    expect([
      boxAt(layout, rows, 0.2, 1),
      boxAt(layout, rows, 0.55, 1),
      boxAt(layout, rows, 0.7, 2),
      boxAt(layout, rows, 0.7, 9)
    ]).toEqual([1, -1, 3, -1]);
  });
  it('begins drawing at the first box in view', () => expect(firstVisible(layout, rows, 1, 0.52)).toBe(2));
  it('keeps the zoom inside the whole, with the point standing still', () => {
    expect(clampZoom({ from: -1, to: 0.5 })).toEqual({ from: 0, to: 1 });
    expect(zoomAt({ from: 0, to: 1 }, 0.25, 0.5)).toEqual({ from: 0.125, to: 0.625 });
  });
});

describe('pen line', () => {
  const tops = Float64Array.from([0, 25, 50, 75]);
  const x = (ns: number): number => ns;
  it('runs along rows and straight between them', () => {
    const path = penPath(
      [
        { node: 0, from: 0, to: 10 },
        { node: 1, from: 10, to: 60 },
        { node: 0, from: 60, to: 90 }
      ],
      Int32Array.from([0, 1]),
      tops,
      x
    );
    expect(path).toBe('M0.0 12.5H10.0H10.0V37.5H60.0H60.0V12.5H90.0');
  });
  it('does not leave a comb for the gaps between its teeth, long or short', () => {
    for (const [tooth, gap] of [
      [4, 1],
      [0.2, 0.05],
      [20, 3]
    ]) {
      const each = tooth + gap;
      const comb = Array.from({ length: 20 }, (_, i) => [
        { node: 1, from: i * each, to: i * each + tooth },
        { node: 0, from: i * each + tooth, to: (i + 1) * each }
      ]).flat();
      // At the most it comes up after the last one.
      expect(penPath(comb, Int32Array.from([0, 1]), tops, x).match(/V/g) ?? []).toHaveLength(
        tooth === 20 ? 1 : 0
      );
    }
  });
  it('goes to every row of calls that alternate within a few pixels, and no oftener than can be seen', () => {
    // 3,000 calls in turn in three rows, 400 pixels in all; each with a gap in a fourth row.
    const each = 400 / 3000;
    const turns = Array.from({ length: 3000 }, (_, i) => [
      { node: i % 3, from: i * each, to: (i + 0.95) * each },
      { node: 3, from: (i + 0.95) * each, to: (i + 1) * each }
    ]).flat();
    const path = penPath(turns, Int32Array.from([1, 2, 3, 0]), Float64Array.from([0, 25, 50, 75, 100]), x);
    const heights = new Set([...path.matchAll(/V([\d.]+)/g)].map(([, y]) => Number(y)));
    expect([...heights].sort((a, b) => a - b)).toEqual([37.5, 62.5, 87.5]);
    expect(path.match(/V/g)!.length).toBeLessThan((400 / 8) * 4 + 4);
    expect(path.endsWith('H400.0')).toBe(true);
  });
  it('runs from the first to the last moment, forward, along every row it stays in for long', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(4), fc.double({ min: 0.01, max: 60, noNaN: true })), {
          minLength: 1,
          maxLength: 60
        }),
        (visits) => {
          let at = 0;
          const stretches = visits.map(([node, width]) => ({ node, from: at, to: (at += width) }));
          const path = penPath(
            stretches,
            Int32Array.from([0, 1, 2, 3, 4]),
            Float64Array.from([0, 25, 50, 75, 100]),
            x
          );
          const steps = [...path.matchAll(/([MHV])([\d.]+)(?: ([\d.]+))?/g)];
          let [h, v] = [Number(steps[0][2]), Number(steps[0][3])];
          expect(h).toBe(0);
          const along = new Map<number, [number, number][]>();
          for (const [, kind, value] of steps.slice(1)) {
            if (kind === 'V') v = Number(value);
            else {
              expect(Number(value)).toBeGreaterThanOrEqual(h);
              along.set(v, [...(along.get(v) ?? []), [h, Number(value)]]);
              h = Number(value);
            }
          }
          expect(h).toBeCloseTo(at, 0);
          for (const { node, from, to } of stretches) {
            if (to - from < 16) continue;
            const covered = (along.get(node * 25 + 12.5) ?? []).reduce(
              (sum, [a, b]) => sum + Math.max(0, Math.min(b, to) - Math.max(a, from)),
              0
            );
            expect(covered).toBeGreaterThan(to - from - 9);
          }
        }
      )
    );
  });
  const teeth = (...bars: [number, number][]): string =>
    combPath(
      bars.map((_, i) => i),
      bars.map(([from]) => from),
      bars.map(([, to]) => to),
      x
    );
  it('draws each tooth of a comb by itself where there is room, and a short one as a hair', () =>
    expect(teeth([0, 10], [10, 20], [30, 30.1])).toBe(
      'M0.0 0H9.2V12H0.0ZM10.0 0H19.2V12H10.0ZM30.0 0H31.2V12H30.0Z'
    ));
  it('draws teeth without room between them as one bar, also where a long one covers later ones', () => {
    expect(
      teeth(...Array.from({ length: 5000 }, (_, i): [number, number] => [i / 100, i / 100 + 0.005]))
    ).toBe('M0.0 0H51.2V12H0.0Z');
    expect(teeth([0, 50], [5, 10], [60, 70])).toBe('M0.0 0H49.2V12H0.0ZM60.0 0H69.2V12H60.0Z');
  });
  it('knows which rows are in view', () => {
    const row = {
      kind: 'span' as const,
      depth: 0,
      node: 0,
      members: [],
      key: '',
      foldable: false,
      open: true,
      comb: ''
    };
    const all = rowTops(Array.from({ length: 100 }, () => row));
    expect(all[100]).toBe(100 * SPAN_HEIGHT);
    expect(rowsBetween(all, 250, 300)).toEqual([10, 12]);
  });
});

describe('axes', () => {
  it('have round marks, not too many', () => {
    expect(roundTicks(1842e6, 4)).toEqual([0, 500e6, 1000e6, 1500e6]);
    expect(ticksOf(0, 3_600_000, 8).length).toBeLessThanOrEqual(8);
  });
});

describe('tables', () => {
  it('quote for CSV, and disarm what a spreadsheet would run', () => {
    expect(
      toCsv(
        ['a', 'b'],
        [
          ['x,"y"', 1],
          ['=cmd()', -2]
        ]
      )
    ).toBe('a,b\r\n"x,""y""",1\r\n\'=cmd(),-2\r\n');
  });
  it('sort what has no value last, either way', () => {
    const rows = [{ v: 1 }, { v: null }, { v: 3 }];
    expect(sortRows(rows, ({ v }) => v, 'desc').map(({ v }) => v)).toEqual([3, 1, null]);
    expect(sortRows(rows, ({ v }) => v, 'asc').map(({ v }) => v)).toEqual([1, 3, null]);
  });
});
