import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { writeJvmDump } from '../testing/jvm-dump';
import { across, COMPUTING_SHARE, stuckThreads } from './across';
import { joinSeries } from './join';
import { readJvmText } from './jvm-text';
import type { DumpSeries } from './model';

const NAMES = ['pilot-1', 'pilot-2', 'tide-1'];
const STACKS = [
  ['quillhaven.pilots.Roster.sync(Roster.java:12)'],
  ['quillhaven.pilots.Roster.sync(Roster.java:13)'],
  ['java.lang.Object.wait(Native Method)', 'java.lang.Thread.run(Thread.java:840)']
];
const BETWEEN_MS = 5000;

/** Where each thread stands in each dump, −1 where it is not there, and how much CPU it used since the dump before. */
const films = fc.array(
  fc.tuple(
    ...NAMES.map(() =>
      fc.record({
        stack: fc.integer({ min: -1, max: STACKS.length - 1 }),
        usedMs: fc.constantFrom(0, 1000, 4000)
      })
    )
  ),
  { minLength: 1, maxLength: 6 }
);
type Film = { stack: number; usedMs: number }[][];

/** The dumps as a machine would write them, five seconds apart; the others keep their numbers when one is not there. */
function seriesOf(film: Film): DumpSeries {
  const cpu = NAMES.map(() => 0);
  return joinSeries(
    film.map((dump, at) => {
      const threads = dump.map(({ stack, usedMs }, i) => {
        cpu[i] += usedMs;
        return { stack, name: NAMES[i], frames: STACKS[Math.max(0, stack)], cpuMs: cpu[i] };
      });
      const text = writeJvmDump(
        threads.map(({ stack, ...one }) => ({
          ...one,
          name: stack < 0 ? `absent-${at}-${one.name}` : one.name,
          elapsedMs: 60_000 + at * BETWEEN_MS
        })),
        `2026-11-24 09:27:${String(at * 5).padStart(2, '0')}`
      );
      return readJvmText(text).series;
    })
  );
}

/** By the definition: the longest run of dumps, one after another, in which the thread stands where it stood. */
function longestRun(stacks: readonly number[]): { length: number; from: number } {
  let best = { length: 0, from: 0 };
  stacks.forEach((_, from) => {
    let length = 0;
    while (
      from + length < stacks.length &&
      stacks[from + length] >= 0 &&
      stacks[from + length] === stacks[from]
    )
      length++;
    if (length > best.length) best = { length, from };
  });
  return best;
}

describe('a thread across dumps', () => {
  it('is as long in one place as its longest run, and computes where its CPU time says so', () => {
    fc.assert(
      fc.property(films, (film) => {
        const found = across(seriesOf(film));
        NAMES.forEach((name, i) => {
          const stacks = film.map((dump) => dump[i].stack);
          const one = found.find((each) => each.name === name);
          if (stacks.every((stack) => stack < 0)) return expect(one).toBeUndefined();
          const run = longestRun(stacks);
          expect(one!.sameFor).toBe(run.length);
          expect(one!.standings.map((standing) => standing !== null)).toEqual(
            stacks.map((stack) => stack >= 0)
          );
          if (run.length < 2) return expect(one!.computing).toBeNull();
          const used = film
            .slice(run.from + 1, run.from + run.length)
            .reduce((sum, dump) => sum + dump[i].usedMs, 0);
          expect(one!.computing).toBe(used >= COMPUTING_SHARE * BETWEEN_MS * (run.length - 1));
        });
      }),
      { numRuns: 150 }
    );
  });
  it('says since the dump before whether it moved, and what CPU time it used', () => {
    const film: Film = [0, 0, 1].map((stack, at) => [
      { stack, usedMs: at === 1 ? 4000 : 1000 },
      { stack: -1, usedMs: 0 },
      { stack: at === 1 ? -1 : 0, usedMs: 0 }
    ]);
    const [moved, , away] = NAMES.map((name) => across(seriesOf(film)).find((one) => one.name === name));
    expect(moved!.standings.map((one) => one!.since)).toEqual(['first', 'same', 'moved']);
    expect(moved!.standings.map((one) => one!.cpuMs)).toEqual([null, 4000, 1000]);
    expect(moved!.standings.map((one) => one!.betweenMs)).toEqual([null, BETWEEN_MS, BETWEEN_MS]);
    expect([moved!.cpuMs, moved!.computing]).toEqual([5000, true]);
    // It was away in between: the run of dumps in which it stood still is broken.
    expect(away!.standings.map((one) => one?.since ?? null)).toEqual(['first', null, 'same']);
    expect(away!.sameFor).toBe(1);
  });
  it('reckons CPU time within the run alone, not from before the thread was away', () => {
    // There, away for one dump, and then twice in the same place, with four of those five seconds on a core.
    const film: Film = [0, -1, 0, 0].map((stack, at) => [
      { stack, usedMs: at === 3 ? 4000 : 0 },
      { stack: -1, usedMs: 0 },
      { stack: -1, usedMs: 0 }
    ]);
    const one = across(seriesOf(film)).find(({ name }) => name === 'pilot-1');
    expect(one).toMatchObject({ sameFor: 2, computing: true });
  });
  it('is called stuck only where it stands in the program’s own code', () => {
    const film: Film = [0, 1].map(() => [
      { stack: 0, usedMs: 0 },
      { stack: 2, usedMs: 0 },
      { stack: -1, usedMs: 0 }
    ]);
    expect(stuckThreads(seriesOf(film)).map(({ name }) => name)).toEqual(['pilot-1']);
  });
});
