import { describe, expect, it } from 'vitest';
import type { BinRange } from './bins';
import { forgetSince, lastApart, MAX_ANSWERS, MAX_ROWS, readRanges } from './remembered';

const days = (from: number, to: number): BinRange => ({ step: 1440, from, to });
const hours = (from: number, to: number): BinRange => ({ step: 60, from, to });

/** A question that counts how often each run of bins was really asked for. */
function counted(question: string, rows = 1) {
  const asked: string[] = [];
  const ask = (ranges: readonly BinRange[]): Promise<string[]> => {
    const names = ranges.map(({ step, from, to }) => `${step}:${from}-${to}`);
    asked.push(names.join('+'));
    return Promise.resolve(Array.from({ length: rows }, () => names.join('+')));
  };
  return { asked, of: (ranges: BinRange[]) => readRanges(question, ranges, ask) };
}

describe('what is remembered of the past', () => {
  it('is the longest run; the rest is asked anew each time', async () => {
    const { asked, of } = counted('a');
    const ranges = [hours(90, 96), days(4, 30), hours(720, 722)];
    expect(await of(ranges)).toEqual(['1440:4-30', '60:90-96+60:720-722']);
    expect(await of(ranges)).toEqual(['1440:4-30', '60:90-96+60:720-722']);
    expect(asked).toEqual(['1440:4-30', '60:90-96+60:720-722', '60:90-96+60:720-722']);
  });

  it('is another for another question, and nothing for no bins', async () => {
    const first = counted('b');
    const second = counted('c');
    await first.of([days(1, 2)]);
    await second.of([days(1, 2)]);
    expect([first.asked.length, second.asked.length]).toEqual([1, 1]);
    expect(await first.of([])).toEqual([]);
  });

  it('is forgotten when something is booked in it, and kept when something is booked after it', async () => {
    const { asked, of } = counted('d');
    await of([days(10, 20)]);
    forgetSince(20 * 1440);
    await of([days(10, 20)]);
    expect(asked).toHaveLength(1);
    forgetSince(20 * 1440 - 1);
    await of([days(10, 20)]);
    expect(asked).toHaveLength(2);
  });

  it('does not keep an answer that was asked for before something was booked and came after it', async () => {
    let answer!: (rows: string[]) => void;
    const late = readRanges('e', [days(1, 3)], () => new Promise<string[]>((resolve) => (answer = resolve)));
    forgetSince(1440);
    answer(['old']);
    expect(await late).toEqual(['old']);
    expect(await readRanges('e', [days(1, 3)], () => Promise.resolve(['new']))).toEqual(['new']);
  });

  it('does not keep what failed', async () => {
    await expect(readRanges('f', [days(1, 2)], () => Promise.reject(new Error('locked')))).rejects.toThrow(
      'locked'
    );
    expect(await readRanges('f', [days(1, 2)], () => Promise.resolve(['there']))).toEqual(['there']);
  });

  it('is bounded: what was not looked at for longest goes first', async () => {
    const many = counted('g', MAX_ROWS / 2);
    for (const day of [1, 2, 3]) await many.of([days(day, day + 1)]);
    await many.of([days(3, 4)]);
    await many.of([days(1, 2)]);
    expect(many.asked).toEqual(['1440:1-2', '1440:2-3', '1440:3-4', '1440:1-2']);
    const small = counted('h', 0);
    for (let day = 0; day <= MAX_ANSWERS; day++) await small.of([days(day, day + 1)]);
    await small.of([days(0, 1)]);
    expect(small.asked).toHaveLength(MAX_ANSWERS + 2);
  });

  it('leaves the last bin of a series apart, which is being filled', () => {
    expect(lastApart(days(3, 9))).toEqual([days(3, 8), days(8, 9)]);
    expect(lastApart(days(3, 4))).toEqual([days(3, 4)]);
  });
});
