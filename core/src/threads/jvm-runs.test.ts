import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { writeJvmDump } from '../testing/jvm-dump';
import { readJvmText } from './jvm-text';

// Stacks of very few frames, so that what stands below a frame is often what stood below it before, and often nearly.
const LINES = ['a', 'b', 'c'].map((name) => `quillhaven.pilots.Roster.${name}(Roster.java:12)`);
const LOCKS = ['0x00000006a0000001', '0x00000006a0000002'];
const threads = fc.array(
  fc.record({
    frames: fc.array(fc.constantFrom(...LINES), { minLength: 1, maxLength: 14 }),
    holds: fc.subarray(LOCKS),
    wants: fc.option(fc.constantFrom(...LOCKS), { nil: undefined })
  }),
  { minLength: 1, maxLength: 12 }
);

describe('runs of frames that are taken at once', () => {
  it.each(['\n', '\r\n'])(
    'are the frames that were written, with the locks where they stood (%j)',
    (newLine) => {
      fc.assert(
        fc.property(threads, fc.boolean(), (drawn, twice) => {
          const written = drawn.map((thread, i) => ({ ...thread, name: `harbour-${i}` }));
          const once = writeJvmDump(written).replaceAll('\n', newLine);
          const { series } = readJvmText(twice ? once + once : once);
          expect(series.dumps).toHaveLength(twice ? 2 : 1);
          for (const { threads: read, locks } of series.dumps) {
            const named = read.map(({ frames, holds, waitsFor }) => ({
              frames: Array.from(frames, (frame) => series.frames[frame].name),
              holds: holds.map(({ lock, depth }) => [locks[lock].id, depth]),
              wants: waitsFor && [locks[waitsFor.lock].id, waitsFor.depth]
            }));
            expect(named).toEqual(
              written.map(({ frames, holds, wants }) => ({
                frames: frames.map((line) => line.slice(0, line.indexOf('('))),
                holds: holds.map((lock) => [lock, frames.length - 1]),
                wants: wants ? [wants, 0] : null
              }))
            );
          }
        }),
        { numRuns: 300 }
      );
    }
  );

  it('end where the text is cut off in the middle of a line', () => {
    const frames = [...LINES, ...LINES, ...LINES];
    const text = writeJvmDump([
      { name: 'one', frames },
      { name: 'two', frames }
    ]);
    const cut = text.slice(0, text.lastIndexOf('Roster.b(') + 5);
    const { series, warnings } = readJvmText(cut);
    const depths = series.dumps[0].threads.map((thread) => thread.frames.length);
    expect(depths).toEqual([9, 8]);
    expect(warnings.map(({ code }) => code)).toContain('no-end');
  });
});
