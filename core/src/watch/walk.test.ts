import * as v from 'valibot';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { emptyCell, sliding, sumOver, type Cell } from './cell';
import { Condition } from './condition';
import { runPast } from './past';
import { standingAt, type WatchState } from './state';
import { walk } from './walk';

const MINUTE = 28_000_000;
/** A counter that tells one value a minute; null for none. */
const cellsOf = (values: readonly (number | null)[], from = MINUTE): Map<number, Cell> =>
  new Map(
    values.flatMap((value, i) =>
      value === null ? [] : [[from + i, { ...emptyCell(), count: 1, sum: value }] as const]
    )
  );
const condition = (change: object = {}): Condition =>
  v.parse(Condition, {
    watched: { of: 'counter', name: 'quay.queue' },
    limit: { by: 'number', side: 'above', on: 10, off: 8 },
    over: 1,
    for: 2,
    silentAfter: 3,
    ...change
  });
const statesOf = (values: readonly (number | null)[], of = condition()): WatchState[] =>
  [...walk(of, { cells: cellsOf(values) }, standingAt(MINUTE), MINUTE, MINUTE + values.length - 1)].map(
    ({ standing }) => standing.state
  );

describe('a watch over a series with known crossings', () => {
  // Each row is worked out by hand from the sentences of `nextStanding`.
  it.each<[string, (number | null)[], WatchState[]]>([
    ['comes on with the second minute in a row', [11, 12, 13], ['off', 'on', 'on']],
    ['is not over at the very limit', [10, 10, 10], ['off', 'off', 'off']],
    ['begins anew after a minute that is not over', [11, 9, 11, 11], ['off', 'off', 'off', 'on']],
    ['stays on between the two limits', [11, 11, 9, 9, 9], ['off', 'on', 'on', 'on', 'on']],
    [
      'goes off at the limit for off, the second minute in a row',
      [11, 11, 8, 8, 8],
      ['off', 'on', 'on', 'off', 'off']
    ],
    ['goes not off by minutes apart', [11, 11, 7, 9, 7], ['off', 'on', 'on', 'on', 'on']],
    [
      'has no data with the third minute without any',
      [5, null, null, null],
      ['off', 'off', 'off', 'no data']
    ],
    ['is new until there is a value', [null, null, 5], ['new', 'new', 'off']],
    ['stays on over a gap that is short', [11, 11, null, null, 9], ['off', 'on', 'on', 'on', 'on']],
    ['begins anew after a gap', [11, null, 11, 11], ['off', 'off', 'off', 'on']],
    [
      'is on no more without data, and comes on again as from the beginning',
      [11, 11, null, null, null, 11, 11],
      ['off', 'on', 'on', 'on', 'no data', 'off', 'on']
    ]
  ])('%s', (_, values, states) => {
    expect(statesOf(values)).toEqual(states);
  });

  it('is judged below a limit as above one', () => {
    const below = condition({ limit: { by: 'number', side: 'below', on: 3, off: 5 } });
    expect(statesOf([2, 2, 4, 5, 5], below)).toEqual(['off', 'on', 'on', 'on', 'off']);
  });

  it('takes its figure over the minutes before, too', () => {
    // Means of the last five minutes: 10, 10, 10, 10, 12, 14.
    const over = condition({ over: 5, for: 1, limit: { by: 'number', side: 'above', on: 11, off: 11 } });
    expect(statesOf([10, 10, 10, 10, 20, 20], over)).toEqual(['off', 'off', 'off', 'off', 'on', 'on']);
  });

  it('tells when it was on, how far it went, and what ended it', () => {
    const values = [11, 12, 40, 9, 8, 7, 5, 11, 11, null, null, null, 6];
    const { firings, judged, overMinutes } = runPast(
      condition(),
      { cells: cellsOf(values) },
      MINUTE,
      MINUTE + values.length - 1
    );
    expect(firings).toEqual([
      { on: MINUTE + 1, off: MINUTE + 5, byNoData: false, value: 12, before: null, worst: 40 },
      { on: MINUTE + 8, off: MINUTE + 11, byNoData: true, value: 11, before: null, worst: 11 }
    ]);
    expect([judged, overMinutes]).toEqual([10, 5]);
  });

  it('goes on where it stopped: minutes judged in two parts are judged alike', () => {
    fc.assert(
      fc.property(series, fc.nat(40), (values, cut) => {
        const at = Math.min(cut, values.length - 1);
        const of = condition({ over: 5 });
        const cells = cellsOf(values);
        const last = MINUTE + values.length - 1;
        const whole = [...walk(of, { cells }, standingAt(MINUTE), MINUTE, last)];
        const first = whole.slice(0, at);
        const start = first.at(-1)?.standing ?? standingAt(MINUTE);
        const rest = [...walk(of, { cells }, start, MINUTE + at, last)];
        expect([...first, ...rest]).toEqual(whole);
      })
    );
  });
});

const series = fc.array(fc.option(fc.integer({ min: 0, max: 20 }), { nil: null, freq: 4 }), {
  minLength: 1,
  maxLength: 60
});

describe('a watch over any series', () => {
  it('stands as the sentences of its definition say, taken literally', () => {
    const settings = fc.record({
      over: fc.constantFrom(1, 5, 10),
      for: fc.integer({ min: 1, max: 4 }),
      silentAfter: fc.integer({ min: 1, max: 5 }),
      on: fc.integer({ min: 5, max: 15 }),
      gap: fc.nat(4)
    });
    fc.assert(
      fc.property(series, settings, (values, { over, for: inRow, silentAfter, on, gap }) => {
        const of = condition({
          over,
          for: inRow,
          silentAfter,
          limit: { by: 'number', side: 'above', on, off: on - gap }
        });
        expect(statesOf(values, of)).toEqual(
          literally(values, { over, inRow, silentAfter, on, off: on - gap })
        );
      }),
      { numRuns: 500 }
    );
  });
});

/** Each minute is looked at by itself, with all before it: no row is counted on. */
function literally(
  values: readonly (number | null)[],
  {
    over,
    inRow,
    silentAfter,
    on,
    off
  }: { over: number; inRow: number; silentAfter: number; on: number; off: number }
): WatchState[] {
  const means = values.map((_, i) => {
    const some = values.slice(Math.max(0, i - over + 1), i + 1).filter((value) => value !== null);
    return some.length === 0 ? null : some.reduce((sum, value) => sum + value, 0) / some.length;
  });
  const states: WatchState[] = [];
  means.forEach((mean, i) => {
    const last = (count: number, is: (value: number | null) => boolean): boolean =>
      i + 1 >= count && means.slice(i + 1 - count, i + 1).every(is);
    const before = states[i - 1] ?? 'new';
    if (mean === null) states.push(last(silentAfter, (value) => value === null) ? 'no data' : before);
    else if (last(inRow, (value) => value !== null && value > on)) states.push('on');
    else if (before === 'on' && !last(inRow, (value) => value !== null && value <= off)) states.push('on');
    else states.push('off');
  });
  return states;
}

describe('sums over minutes that slide', () => {
  it('are those of each stretch by itself', () => {
    const cell = fc.record({
      count: fc.nat(5),
      failed: fc.nat(3),
      hits: fc.nat(3),
      sum: fc.double({ noNaN: true, min: 0, max: 1e6 }),
      bucket: fc.nat(500)
    });
    fc.assert(
      fc.property(
        fc.array(fc.option(cell), { maxLength: 40 }),
        fc.integer({ min: 1, max: 12 }),
        (list, length) => {
          const cells = new Map<number, Cell>();
          list.forEach((one, i) => {
            if (!one) return;
            const { bucket, ...rest } = one;
            const counts = Float64Array.of(rest.count);
            cells.set(i, { ...emptyCell(), ...rest, sketch: { low: bucket, counts } });
          });
          for (const [minute, sum] of sliding(cells, 0, list.length - 1, length)) {
            const alone = sumOver(cells, minute - length + 1, minute);
            expect([sum.count, sum.failed, sum.hits]).toEqual([alone.count, alone.failed, alone.hits]);
            expect(sum.sum).toBeCloseTo(alone.sum, 6);
            const held = (of: Cell): [number, number][] =>
              [...of.sketch.counts].flatMap((count, i): [number, number][] =>
                count > 0 ? [[of.sketch.low + i, count]] : []
              );
            expect(held(sum)).toEqual(held(alone));
          }
        }
      )
    );
  });
});
