import { describe, expect, it } from 'vitest';
import { readJvmText } from '@tromix/core/threads/jvm-text';
import { waitsPicture } from '@tromix/core/threads/picture';
import { waitsFor } from '@tromix/core/threads/waits-for';
import { writeJvmDump, type WrittenThread } from '@tromix/core/testing/jvm-dump';
import { waitsSvg } from './waits-svg';
import { barWords, boxWords, cyclePath, linkPath, lockName } from './waits-words';

const LEDGER = '0x00000006a0009c40';
const BOARD = '0x00000006a0009d80';
function drawn(threads: readonly WrittenThread[], unfolded: readonly string[] = []) {
  const { frames, dumps } = readJvmText(writeJvmDump(threads)).series;
  const [dump] = dumps;
  const waits = waitsFor(dump);
  const picture = waitsPicture(frames, dump, waits, new Set(unfolded));
  return { frames, dump, waits, picture, svg: waitsSvg(frames, dump, waits, picture) };
}
const queue: WrittenThread[] = [
  { name: 'ledger-writer', holds: [LEDGER] },
  ...Array.from({ length: 40 }, (_, i) => ({ name: `http-worker-${i}`, wants: LEDGER }))
];
const cycle: WrittenThread[] = [
  { name: 'first', holds: [LEDGER], wants: BOARD },
  { name: 'second', holds: [BOARD], wants: LEDGER }
];

describe('the words of the picture of who waits', () => {
  it('name a holder with where it stands, and a fold with its size', () => {
    const { frames, dump, picture } = drawn(queue);
    const words = picture.boxes.map((box) => boxWords(frames, dump, box));
    expect(words[0]).toEqual({ name: 'ledger-writer', detail: 'Roster.sync:12' });
    expect(words.slice(1)).toContainEqual({ name: 'http-worker-* × 40', detail: '' });
  });
  it('say of a bar which lock it is and how many wait', () => {
    const { dump, waits, picture } = drawn(queue);
    expect(barWords(dump, waits, picture.bars[0])).toEqual({
      name: '0x…9c40 Ledger',
      about: '40 threads wait directly'
    });
    const [alone] = [drawn(queue.slice(0, 2))];
    expect(barWords(alone.dump, alone.waits, alone.picture.bars[0]).about).toBe('1 thread waits directly');
    expect(lockName(dump, waits.queues[0].lock)).toBe('0x…9c40 Ledger');
  });
  it('say so where no thread of the dump holds the lock, and where a thread has no stack', () => {
    const { frames, dump, picture } = drawn(queue.slice(1));
    expect(boxWords(frames, dump, picture.boxes[0])).toEqual({
      name: 'held by no thread',
      detail: 'named in this dump'
    });
    const bare = drawn([{ name: '', frames: [], holds: [] }, ...queue]);
    expect(
      boxWords(bare.frames, bare.dump, { ...bare.picture.boxes[0], kind: 'root', threads: [0] })
    ).toEqual({
      name: '(no name)',
      detail: 'no stack'
    });
  });
});

describe('the lines of the picture', () => {
  it('run from the holder’s box to the bar of its queue', () => {
    const { picture } = drawn(queue);
    const [bar] = picture.bars;
    const holder = picture.boxes[bar.holder];
    const path = linkPath(picture, bar);
    expect(path.startsWith(`M${holder.x + holder.width} ${holder.y + holder.height / 2}`)).toBe(true);
    expect(path.endsWith(`H${bar.x}`)).toBe(true);
  });
  it('close a deadlock into a ring', () => {
    const { picture } = drawn(cycle);
    expect(picture.cycles).toHaveLength(1);
    const path = cyclePath(picture, picture.cycles[0]);
    const [first, last] = picture.cycles[0].boxes.map((box) => picture.boxes[box]);
    expect(path).toContain(`V${last.y - 1}m`);
    expect(path).toContain(`H${first.x - 1}m`);
  });
});

describe('the picture as SVG', () => {
  it('is one document with a box for each box, and a line for each bar and cycle', () => {
    for (const threads of [queue, cycle, [...queue, { name: 'idle' }]]) {
      const { picture, svg } = drawn(threads);
      expect(svg.startsWith('<svg xmlns="http://www.w3.org/2000/svg"')).toBe(true);
      expect(svg.trimEnd().endsWith('</svg>')).toBe(true);
      expect(svg.match(/<rect x=/g)).toHaveLength(picture.boxes.length + picture.bars.length);
      expect(svg.match(/<path /g) ?? []).toHaveLength(picture.bars.length + picture.cycles.length);
    }
  });
  it('shows each thread of a pool that is unfolded', () => {
    const { svg } = drawn(queue, ['http-worker-*']);
    for (let i = 0; i < 40; i++) expect(svg).toContain(`>http-worker-${i}<`);
    expect(drawn(queue).svg).not.toContain('>http-worker-3<');
  });
  it('shows whatever names hold as text', () => {
    const { svg } = drawn([
      { name: '</text><script>x()</script>&"', holds: [LEDGER] },
      { name: 'a\u0001b', wants: LEDGER }
    ]);
    expect(svg).toContain('&lt;/text&gt;&lt;script&gt;x()&lt;/script&gt;&amp;&quot;');
    expect(svg).not.toContain('<script');
    // eslint-disable-next-line no-control-regex
    expect(svg).not.toMatch(/[\u0000-\u0008]/);
  });
});
