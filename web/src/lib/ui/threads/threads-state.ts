import { defineParams, flag, integer, oneOf, text, texts, type StateOfSet } from '../frame/params';
import { zoomParam } from '../profile/flame-view';
import { THREAD_MODES, type DumpThread, type ThreadMode } from '@tromix/core/threads/model';
import { packageOf } from '@tromix/core/threads/packages';
import { isIdle, poolPattern } from '@tromix/core/threads/pools';
import type { ThreadFrame } from '@tromix/core/threads/model';

export const SHOWS = ['waits', 'threads', 'pools', 'merged'] as const;
export type Show = (typeof SHOWS)[number];

/** What is looked at; it all stands in the URL. */
export const THREADS_PARAMS = defineParams({
  show: oneOf(SHOWS, 'waits'),
  /** Place of the dump, from 1; 0 for the one that was opened. */
  dump: integer(0),
  /** Index of the thread chosen; −1 for none. */
  thread: integer(-1),
  pool: text(),
  mode: oneOf<ThreadMode | ''>([...THREAD_MODES, ''], ''),
  /** Package that a frame of its stack is of. */
  from: text('package'),
  /** Text that a thread's name or a frame of its stack holds. */
  find: text(),
  /** Threads of the runtime itself are listed too. */
  system: flag(),
  /** Daemon threads that wait for work are listed too. */
  daemons: flag(),
  /** Frames from the top that make stacks alike; 0 for all. */
  top: integer(0),
  /** Function that is chosen among the merged stacks. */
  frame: text(),
  /** Part of the merged stacks that is in view. */
  zoom: zoomParam(),
  /** Stacks are listed to their outer end. */
  whole: flag(),
  /** Pools whose folded threads are shown one by one. */
  unfolded: texts('unfold')
});
export type ThreadsState = StateOfSet<typeof THREADS_PARAMS>;

/** A daemon that waits for work: it keeps nobody waiting and nothing alive, and so it is folded away at first. */
export const isIdleDaemon = (frames: readonly ThreadFrame[], thread: DumpThread): boolean =>
  thread.daemon && !thread.system && isIdle(frames, thread) === true;

/** Threads that the filters leave, by index. */
export function matching(
  frames: readonly ThreadFrame[],
  threads: readonly DumpThread[],
  {
    pool,
    mode,
    from,
    find,
    system,
    daemons
  }: Omit<ThreadsState, 'show' | 'dump' | 'thread' | 'top' | 'unfolded' | 'zoom' | 'whole'>
): number[] {
  const text = find.trim().toLowerCase();
  const found =
    text === ''
      ? null
      : frames.map(({ name, file, package: of }) => `${name} ${file} ${of}`.toLowerCase().includes(text));
  const ofPackage = from === '' ? null : frames.map((frame) => packageOf(frame) === from);
  return threads.flatMap((thread, i) => {
    if (!system && thread.system) return [];
    if (mode !== '' && thread.mode !== mode) return [];
    if (pool !== '' && poolPattern(thread.name) !== pool && thread.name !== pool) return [];
    if (ofPackage && !thread.frames.some((frame) => ofPackage[frame])) return [];
    if (found && !thread.name.toLowerCase().includes(text) && !thread.frames.some((frame) => found[frame]))
      return [];
    // Last: it looks at the whole stack. Who asks for a pool by name means its daemons too.
    if (!daemons && pool === '' && isIdleDaemon(frames, thread)) return [];
    return [i];
  });
}
