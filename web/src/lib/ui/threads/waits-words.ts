import type { ThreadDump, ThreadFrame } from '@tromix/core/threads/model';
import type { PictureBar, PictureBox, PictureCycle, WaitsPicture } from '@tromix/core/threads/picture';
import { placeOf, shortClass, shortLock, shortName } from '@tromix/core/threads/places';
import type { WaitsFor } from '@tromix/core/threads/waits-for';
import { formatCount, plural } from '@tromix/core/text/format';

/** What stands in a box. */
export function boxWords(
  frames: readonly ThreadFrame[],
  dump: ThreadDump,
  box: PictureBox
): { name: string; detail: string } {
  if (box.kind === 'nobody') return { name: 'held by no thread', detail: 'named in this dump' };
  if (box.kind === 'fold') return { name: `${box.pool} × ${formatCount(box.threads.length)}`, detail: '' };
  const thread = dump.threads[box.threads[0]];
  const place = placeOf(frames, thread);
  const detail = place ? `${shortName(place.name)}${place.line > 0 ? `:${place.line}` : ''}` : 'no stack';
  return { name: thread.name || '(no name)', detail: box.kind === 'thread' ? '' : detail };
}

export function lockName(dump: ThreadDump, lock: number): string {
  const { id, className } = dump.locks[lock];
  return `${shortLock(id)} ${shortClass(className)}`.trim();
}

export function barWords(
  dump: ThreadDump,
  waits: WaitsFor,
  bar: PictureBar
): { name: string; about: string } {
  const { lock, condition } = waits.queues[bar.queue];
  const about = condition
    ? `${plural(bar.waiting, 'thread')} ${bar.waiting === 1 ? 'waits' : 'wait'} for something to happen, not for a holder`
    : `${plural(bar.waiting, 'thread')} ${bar.waiting === 1 ? 'waits' : 'wait'} directly`;
  return { name: lockName(dump, lock), about };
}

/** From who holds the lock to the bar of its queue. */
export function linkPath(picture: WaitsPicture, { holder, x, top, bottom }: PictureBar): string {
  const from = picture.boxes[holder];
  const y = from.y + from.height / 2;
  const at = Math.min(bottom, Math.max(top, y));
  const middle = from.x + from.width + 14;
  return `M${from.x + from.width} ${y}H${middle}V${at}H${x}`;
}

/** Down through the boxes of a cycle, and back around the left to the first. */
export function cyclePath({ boxes }: WaitsPicture, cycle: PictureCycle): string {
  const members = cycle.boxes.map((box) => boxes[box]);
  const down = members.slice(1).map((to, i) => {
    const from = members[i];
    const x = from.x + 24;
    return `M${x} ${from.y + from.height}V${to.y - 1}m-3 -5l3 5l3 -5`;
  });
  const [first, last] = [members[0], members.at(-1)!];
  const left = first.x - 26;
  const [top, bottom] = [first.y + first.height / 2, last.y + last.height / 2];
  return `${down.join('')}M${last.x} ${bottom}H${left + 8}q-8 0 -8 -8V${top + 8}q0 -8 8 -8H${first.x - 1}m-5 -3l5 3l-5 3`;
}
