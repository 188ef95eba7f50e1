import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { writeJvmDump, type WrittenThread } from '../testing/jvm-dump';
import { readJvmText } from './jvm-text';
import { waitsPicture, type WaitsPicture } from './picture';
import { waitsFor } from './waits-for';

function pictureOf(threads: WrittenThread[], unfolded: string[] = []): WaitsPicture {
  const { series } = readJvmText(writeJvmDump(threads));
  const [dump] = series.dumps;
  return waitsPicture(series.frames, dump, waitsFor(dump), new Set(unfolded));
}
const lock = (i: number): string => `0x${(i + 1).toString(16).padStart(16, '0')}`;
const overlaps = ({ boxes }: WaitsPicture): boolean =>
  boxes.some((a, i) =>
    boxes.some(
      (b, j) =>
        j > i && a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height
    )
  );

describe('the picture of who waits for whom', () => {
  it('draws every thread that waits or holds up others once, and no box over another', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -1, max: 19 }), { minLength: 1, maxLength: 20 }), (wants) => {
        const threads = wants.map((wanted, i) => ({
          name: `t${String.fromCharCode(97 + i)}`,
          holds: [lock(i)],
          wants: wanted >= 0 && wanted < wants.length && wanted !== i ? lock(wanted) : undefined
        }));
        const picture = pictureOf(threads);
        const drawn = picture.boxes.flatMap((box) => box.threads);
        expect(new Set(drawn).size).toBe(drawn.length);
        const held = new Set(threads.flatMap((thread) => (thread.wants ? [thread.wants] : [])));
        threads.forEach((thread, i) => {
          if (thread.wants || held.has(lock(i))) expect(drawn).toContain(i);
        });
        expect(overlaps(picture)).toBe(false);
        for (const box of picture.boxes) expect(box.y + box.height).toBeLessThanOrEqual(picture.height);
        for (const bar of picture.bars) {
          const holder = picture.boxes[bar.holder];
          expect(bar.x).toBeGreaterThan(holder.x + holder.width);
        }
      })
    );
  });

  it('folds a long queue by pool, and unfolds one on demand', () => {
    const threads = [
      { name: 'holder', holds: [lock(0)] },
      ...Array.from({ length: 30 }, (_, i) => ({ name: `http-worker-${i}`, wants: lock(0) })),
      { name: 'planner', wants: lock(0) }
    ];
    const folded = pictureOf(threads);
    expect(folded.boxes.map(({ kind, pool, threads: inside }) => [kind, pool, inside.length])).toEqual([
      ['root', '', 1],
      ['fold', 'http-worker-*', 30],
      ['thread', 'planner', 1]
    ]);
    expect(pictureOf(threads, ['http-worker-*']).boxes).toHaveLength(32);
  });

  it('draws a cycle as one, with who waits behind it', () => {
    const picture = pictureOf([
      { name: 'a', holds: [lock(0)], wants: lock(1) },
      { name: 'b', holds: [lock(1)], wants: lock(0) },
      { name: 'c', wants: lock(0) }
    ]);
    expect(picture.cycles.map(({ boxes }) => boxes)).toEqual([[0, 1]]);
    expect(picture.boxes.map(({ kind }) => kind)).toEqual(['cycle', 'cycle', 'thread']);
  });

  it('lays out a chain of 5,000', () => {
    const threads = Array.from({ length: 5000 }, (_, i) => ({
      name: `link ${i}`,
      holds: [lock(i)],
      wants: i > 0 ? lock(i - 1) : undefined
    }));
    expect(pictureOf(threads).boxes).toHaveLength(5000);
  });
});
