import { expect, it } from 'vitest';
import { writeJvmDump } from '../testing/jvm-dump';
import { compareDumps } from './compare-dumps';
import { readJvmText } from './jvm-text';

const dumpOf = (workers: number, frames: string[]): ReturnType<typeof readJvmText>['series'] =>
  readJvmText(
    writeJvmDump(
      [
        ...Array.from({ length: workers }, (_, i) => ({ name: `http-worker-${i + 1}`, frames })),
        { name: 'timer', frames: ['java.lang.Object.wait(Native Method)'] }
      ],
      '2026-11-24 09:27:00'
    )
  ).series;

it('tells how pools grew and where their threads stand now', () => {
  const [before, after] = [
    dumpOf(2, ['quillhaven.pilots.Roster.sync(Roster.java:12)']),
    dumpOf(5, ['quillhaven.pilots.Roster.lock(Roster.java:44)'])
  ];
  const compared = compareDumps({ before: { series: before, dump: 0 }, after: { series: after, dump: 0 } });
  expect(compared.threads).toEqual({ before: 3, after: 6 });
  expect(compared.pools[0]).toMatchObject({ pattern: 'http-worker-*', threads: { before: 2, after: 5 } });
  expect(
    compared.places.slice(0, 2).map(({ name, threads }) => [name, threads.before, threads.after])
  ).toEqual([
    ['quillhaven.pilots.Roster.lock', 0, 5],
    ['quillhaven.pilots.Roster.sync', 2, 0]
  ]);
});

it('finds nothing changed in a dump held against itself, and the opposite with the sides swapped', () => {
  const one = { series: dumpOf(3, ['quillhaven.pilots.Roster.sync(Roster.java:12)']), dump: 0 };
  const other = { series: dumpOf(1, ['quillhaven.pilots.Roster.sync(Roster.java:99)']), dump: 0 };
  const same = compareDumps({ before: one, after: one });
  expect([...same.pools, ...same.places].every(({ threads }) => threads.before === threads.after)).toBe(true);
  const there = compareDumps({ before: one, after: other });
  const back = compareDumps({ before: other, after: one });
  expect(back.places.map(({ threads }) => [threads.after, threads.before])).toEqual(
    there.places.map(({ threads }) => [threads.before, threads.after])
  );
});
