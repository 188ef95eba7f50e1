import type { ThreadDump, ThreadFrame } from '@tromix/core/threads/model';
import type { WaitsFor } from '@tromix/core/threads/waits-for';
import { plural } from '@tromix/core/text/format';
import type { Offer } from '$lib/ui/cases/pins.svelte';
import { MODES } from './modes';
import { stackText } from './stack-text';
import { lockName } from './waits-words';

/** Stacks may be thousands deep. */
const MAX_STACK = 15_000;

/** A thread as something to be pinned; one that waits for a lock, with the lock and who holds it. */
export function threadOffer(
  frames: readonly ThreadFrame[],
  dump: ThreadDump,
  waits: WaitsFor,
  thread: number
): Offer {
  const one = dump.threads[thread];
  const queue = waits.queueOf[thread] >= 0 ? waits.queues[waits.queueOf[thread]] : null;
  const holders = (queue?.owners ?? []).map((owner) => dump.threads[owner].name);
  const held = waits.heldQueues[thread].map((i) => waits.queues[i]);
  const waiting = held.reduce((sum, { waiting }) => sum + waiting.length, 0);
  const sentence = [
    `${one.name || 'A thread without a name'}: ${MODES[one.mode].name}`,
    queue && !queue.condition
      ? `waits for ${lockName(dump, queue.lock)}${holders.length > 0 ? `, held by ${holders.join(', ')}` : ''}`
      : '',
    held.length > 0
      ? `holds ${held.map(({ lock }) => lockName(dump, lock)).join(', ')}, for which ${plural(waiting, 'thread')} ${waiting === 1 ? 'waits' : 'wait'} directly`
      : ''
  ];
  return {
    kind: queue || held.length > 0 ? 'lock' : 'thread',
    title: one.name || 'thread',
    sentence: `${sentence.filter(Boolean).join('; ')}.`,
    verbatim: stackText(frames, one).slice(0, MAX_STACK)
  };
}
