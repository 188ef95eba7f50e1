import * as v from 'valibot';
import { describe, expect, it } from 'vitest';
import { drawsOf } from '../testing/watched-cells';
import { emptyCell, type Cell } from './cell';
import { addBucket, bucketOf } from '../stats/sketch';
import { Condition } from './condition';
import { figureOf, valueIn } from './figures';
import { conditionWords, offWords } from './words';
import { judge } from './verdict';
import { Watched } from './watched';

const requests = (change: object = {}): Watched =>
  v.parse(Watched, {
    of: 'requests',
    figure: 'p95',
    place: { service: 'berths', endpoint: 'POST /berths' },
    ...change
  });
const cellOf = (durationsMs: readonly number[], failed: readonly number[] = []): Cell => {
  const cell = emptyCell();
  for (const [list, sketch] of [
    [durationsMs, cell.sketch],
    [failed, cell.failedSketch]
  ] as const)
    for (const ms of list) addBucket(sketch, bucketOf(ms * 1000), 1);
  return {
    ...cell,
    count: durationsMs.length,
    failed: failed.length,
    sum: durationsMs.reduce((sum, ms) => sum + ms * 1e6, 0)
  };
};
const times = (count: number, ms: number): number[] => new Array<number>(count).fill(ms);

describe('figures', () => {
  it('Apdex is that of the specification', () => {
    // Apdex technical specification 1.1: 60 satisfied and 30 tolerating of 100 score (60 + 30 / 2) / 100 = 0.75 (worked example, from memory).
    const cell = cellOf([...times(60, 400), ...times(30, 1500), ...times(10, 5000)]);
    expect(valueIn(figureOf(requests({ figure: 'apdex' })), cell, 5)).toBe(0.75);
    // Failed samples count as frustrated whatever their time.
    expect(valueIn(figureOf(requests({ figure: 'apdex' })), cellOf(times(100, 10), times(40, 10)), 5)).toBe(
      0.6
    );
  });

  it('are shares of requests, numbers a minute, and durations within 1 %', () => {
    const cell = cellOf([...times(90, 100), ...times(10, 900)], times(3, 100));
    expect(valueIn(figureOf(requests({ figure: 'failed' })), cell, 5)).toBe(0.03);
    expect(valueIn(figureOf(requests({ figure: 'rate' })), cell, 5)).toBe(20);
    expect(valueIn(figureOf(requests()), cell, 5)! / 900e6).toBeCloseTo(1, 1);
    expect(valueIn(figureOf(requests({ figure: 'mean' })), cell, 5)).toBe(180e6);
  });

  it('have no value where too few tell of them; how often is told of none, too', () => {
    expect(valueIn(figureOf(requests()), cellOf(times(19, 100)), 5)).toBeNull();
    expect(valueIn(figureOf(requests()), cellOf(times(20, 100)), 5)).not.toBeNull();
    expect(valueIn(figureOf(requests({ figure: 'rate' })), emptyCell(), 5)).toBe(0);
    expect(valueIn(figureOf(requests({ figure: 'failed' })), emptyCell(), 5)).toBeNull();
  });
});

const against = (watched: Watched): Condition =>
  v.parse(Condition, {
    watched,
    limit: { by: 'before', against: 'day', on: 0.2, off: 0.1 },
    over: 5,
    for: 1
  });
const judged = (watched: Watched, before: Cell, now: Cell) =>
  judge(against(watched), {
    before,
    now,
    minutesBefore: new Array<undefined>(5),
    minutesNow: new Array<undefined>(5)
  });

describe('clearly worse than before', () => {
  it('is what is worse by more than was asked and cannot be chance', () => {
    const before = cellOf(drawsOf(200, 100, 1));
    expect(judged(requests({ figure: 'p50' }), before, cellOf(drawsOf(200, 150, 2))).verdict).toBe('over');
    // As much worse, of too few to tell.
    expect(
      judged(requests({ figure: 'p50' }), cellOf(drawsOf(8, 100, 3)), cellOf(drawsOf(8, 130, 4))).verdict
    ).toBe('between');
    expect(judged(requests({ figure: 'p50' }), before, cellOf(drawsOf(200, 100, 5))).verdict).toBe('back');
  });

  it('is hardly ever what chance brings: at most 1 of 100 pairs of alike samples', () => {
    for (const figure of ['p50', 'p95', 'mean', 'failed', 'apdex', 'rate'] as const) {
      let over = 0;
      for (let seed = 0; seed < 300; seed++) {
        const side = (of: number): Cell => {
          const draws = drawsOf(100, 300, of);
          return cellOf(draws, draws.slice(0, Math.round(draws[0] / 60)));
        };
        if (judged(requests({ figure }), side(2 * seed + 1), side(2 * seed + 2)).verdict === 'over') over++;
      }
      expect(over, figure).toBeLessThanOrEqual(3);
    }
  });

  it('sees a tail that grew while the median did not', () => {
    const before = cellOf([...times(380, 100), ...times(20, 300)]);
    const now = cellOf([...times(340, 100), ...times(60, 900)]);
    expect(judged(requests(), before, now).verdict).toBe('over');
    expect(judged(requests({ figure: 'p50' }), before, now).verdict).toBe('back');
  });

  it('says nothing without anything to be held against', () => {
    expect(judged(requests(), emptyCell(), cellOf(times(100, 100))).verdict).toBe('none');
  });

  it('of a share that was nothing, anything clear is worse', () => {
    expect(
      judged(requests({ figure: 'failed' }), cellOf(times(100, 9)), cellOf(times(100, 9), times(30, 9)))
        .verdict
    ).toBe('over');
    expect(judged(requests({ figure: 'failed' }), cellOf(times(100, 9)), cellOf(times(100, 9))).verdict).toBe(
      'back'
    );
  });
});

describe('a condition', () => {
  const given = {
    watched: requests(),
    limit: { by: 'number', side: 'above', on: 5e8, off: 4e8 },
    over: 5,
    for: 3
  };
  const said = (text: string): string => text.replaceAll(/\s/gu, ' ');

  it('is a sentence', () => {
    const condition = v.parse(Condition, given);
    expect(said(conditionWords(condition))).toBe(
      'p95 of POST /berths of berths over 5 min above 500 ms, 3 minutes in a row'
    );
    expect(said(offWords(condition))).toBe('at most 400 ms, 3 minutes in a row');
    expect(said(conditionWords(against(requests({ figure: 'failed' }))))).toBe(
      'failed share of POST /berths of berths over 5 min clearly worse than at the same time the day before, by more than 20 %'
    );
  });

  it.each([
    ['the limit for off on the better side', { limit: { by: 'number', side: 'above', on: 5, off: 6 } }],
    ['one of 1, 5, 10, 15, 30, 60 minutes', { over: 7 }],
    [
      'figures that repeat',
      { watched: { of: 'crashes' }, limit: { by: 'before', against: 'day', on: 0.2, off: 0.1 } }
    ],
    [
      'a service and no release',
      { watched: requests({ place: {} }), limit: { by: 'before', against: 'release', on: 0.2, off: 0.1 } }
    ],
    ['what is watched', { watched: { of: 'weather' } }],
    ['name=value', { watched: { ...requests(), attributes: ['nothing'] } }]
  ])('is refused in words: expected %s', (words, change) => {
    const parsed = v.safeParse(Condition, { ...given, ...change });
    expect(parsed.success).toBe(false);
    expect(parsed.issues?.map(({ message }) => message).join('; ')).toContain(words);
  });
});
