import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { writeJvmDump, type WrittenThread } from '../testing/jvm-dump';
import { stackGroups } from './groups';
import { joinSeries } from './join';
import { readJvmText } from './jvm-text';
import type { DumpSeries, DumpThread } from './model';
import { packageOf, packagesOf } from './packages';
import { packSeries, unpackSeries } from './packed';
import { StackList } from './stack-list';

const METHODS = ['quillhaven.pilots.Roster.sync', 'quillhaven.tides.Clock.tick', 'java.lang.Object.wait'];
const frame = fc
  .tuple(fc.constantFrom(...METHODS), fc.integer({ min: 1, max: 3 }))
  .map(([name, line]) => `${name}(Some.java:${line})`);
const threads = fc.array(
  fc.record({
    frames: fc.array(frame, { maxLength: 4 }),
    state: fc.constantFrom('RUNNABLE', 'WAITING (parking)')
  }),
  { minLength: 1, maxLength: 25 }
);
const seriesOf = (list: readonly Omit<WrittenThread, 'name'>[]): DumpSeries =>
  readJvmText(writeJvmDump(list.map((one, i) => ({ name: `worker-${i}`, ...one })))).series;
const textOf = (series: DumpSeries, thread: DumpThread, depth = Infinity): string =>
  [...thread.frames]
    .slice(0, depth)
    .map((one) => `${series.frames[one].name}:${series.frames[one].line}`)
    .join(' ');

describe('a list of stacks', () => {
  it('gives equal stacks as one array, and unlike ones as they are', () => {
    fc.assert(
      fc.property(fc.array(fc.array(fc.integer({ min: 0, max: 3 }), { maxLength: 4 })), (stacks) => {
        const list = new StackList();
        const kept = stacks.map((stack) => list.of(Int32Array.from(stack)));
        kept.forEach((one, i) => {
          expect([...one]).toEqual(stacks[i]);
          kept.forEach((other, j) => expect(one === other).toBe(stacks[i].join() === stacks[j].join()));
        });
      })
    );
  });
  it('tells stacks apart whose hashes are the same', () => {
    // Made so that both come to one number: h(a, b) = ((basis ^ a) · prime ^ b) · prime.
    const step = (value: number): number => Math.imul(0x811c9dc5 ^ value, 0x01000193);
    const one = Int32Array.from([1, 2]);
    const other = Int32Array.from([3, step(1) ^ 2 ^ step(3)]);
    const list = new StackList();
    expect([list.of(one), list.of(other), list.of(one.slice()), list.of(other.slice())]).toEqual([
      one,
      other,
      one,
      other
    ]);
    expect(list.of(other.slice())).toBe(other);
  });
});

describe('series that are joined', () => {
  it('keep every stack, and hold equal ones of all dumps as one', () => {
    fc.assert(
      fc.property(threads, threads, (first, second) => {
        const parts = [seriesOf(first), seriesOf(second)];
        const joined = joinSeries(parts);
        const written = parts.flatMap((part) =>
          part.dumps.flatMap((dump) => dump.threads.map((one) => textOf(part, one)))
        );
        const all = joined.dumps.flatMap((dump) => dump.threads);
        expect(all.map((one) => textOf(joined, one))).toEqual(written);
        expect(new Set(all.map(({ frames }) => frames)).size).toBe(new Set(written).size);
      }),
      { numRuns: 50 }
    );
  });
});

describe('groups of stacks', () => {
  it('are those of equal states and equal top frames, the largest first', () => {
    fc.assert(
      fc.property(threads, fc.constantFrom(1, 2, Infinity), (list, depth) => {
        const series = seriesOf(list);
        const [dump] = series.dumps;
        const groups = stackGroups(dump, depth);
        // By the definition: threads with the same words for state and frames.
        const naive = new Map<string, number[]>();
        dump.threads.forEach((one, i) => {
          const key = `${one.state} ${textOf(series, one, depth)}`;
          naive.set(key, [...(naive.get(key) ?? []), i]);
        });
        expect(groups.map((group) => group.threads)).toEqual(
          [...naive.values()].sort((a, b) => b.length - a.length || a[0] - b[0])
        );
        for (const { frames } of groups) expect(frames.length).toBeLessThanOrEqual(depth);
      }),
      { numRuns: 60 }
    );
  });
  it('hold only the threads that were chosen', () => {
    const series = seriesOf(Array.from({ length: 6 }, () => ({ frames: [`${METHODS[0]}(Some.java:1)`] })));
    expect(stackGroups(series.dumps[0], Infinity, [1, 4]).map((group) => group.threads)).toEqual([[1, 4]]);
  });
});

describe('packages of many threads', () => {
  it('count those in whose stack they stand, whether stacks are shared or not', () => {
    fc.assert(
      fc.property(threads, (list) => {
        for (const series of [seriesOf(list), joinSeries([seriesOf(list)])]) {
          const all = series.dumps[0].threads;
          for (const { name, threads: count } of packagesOf(series.frames, all)) {
            const naive = all.filter(({ frames }) =>
              [...frames].some((one) => packageOf(series.frames[one]) === name)
            );
            expect(count).toBe(naive.length);
          }
        }
      }),
      { numRuns: 50 }
    );
  });
});

describe('packed threads', () => {
  it('come out as they went in, from a random dump and over the boundary of a thread', () => {
    fc.assert(
      fc.property(threads, fc.array(fc.nat(30), { maxLength: 8 }), (list, holders) => {
        const lock = (i: number): string => `0x${(i + 1).toString(16).padStart(16, '0')}`;
        const series = seriesOf(
          list.map((one, i) => ({
            ...one,
            cpuMs: i,
            holds: holders.flatMap((holder, at) => (holder === i ? [lock(at)] : [])),
            wants: i % 3 === 0 && holders[i % 8] !== i ? lock(i % 8) : undefined
          }))
        );
        expect(unpackSeries(structuredClone(packSeries(series)))).toEqual(series);
      }),
      { numRuns: 60 }
    );
  });
  it.each(['chain', 'deadlock-locks-l', 'names', 'pool', 'waits'])(
    'of the machine’s own dump “%s” come out as they went in',
    (name) => {
      const text = readFileSync(new URL(`../../fixtures/threads/${name}.txt`, import.meta.url), 'utf8');
      const { series } = readJvmText(text);
      expect(series.dumps[0].threads.length).toBeGreaterThan(0);
      expect(unpackSeries(structuredClone(packSeries(series)))).toEqual(series);
    }
  );
  it('keep what a dump does not tell apart from nothing', () => {
    const series = seriesOf([{ frames: [] }]);
    const [thread] = series.dumps[0].threads;
    Object.assign(thread, {
      cpuMs: null,
      elapsedMs: 0,
      waitsFor: null,
      daemon: true,
      virtual: true,
      system: true
    });
    expect(unpackSeries(packSeries(series)).dumps[0].threads[0]).toEqual(thread);
  });
});
