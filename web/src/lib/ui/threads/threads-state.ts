import { THREAD_MODES, type DumpThread, type ThreadMode } from '@tromix/core/threads/model';
import { packageOf } from '@tromix/core/threads/packages';
import { isIdle, poolPattern } from '@tromix/core/threads/pools';
import type { ThreadFrame } from '@tromix/core/threads/model';

export const SHOWS = ['waits', 'threads', 'pools', 'merged'] as const;
export type Show = (typeof SHOWS)[number];

/** What is looked at; it all stands in the URL. */
export interface ThreadsState {
  show: Show;
  /** Place of the dump, from 1; 0 for the one that was opened. */
  dump: number;
  /** Index of the thread chosen; −1 for none. */
  thread: number;
  pool: string;
  mode: ThreadMode | '';
  /** Package that a frame of its stack is of. */
  from: string;
  /** Text that a thread's name or a frame of its stack holds. */
  find: string;
  /** Threads of the runtime itself are listed too. */
  system: boolean;
  /** Daemon threads that wait for work are listed too. */
  daemons: boolean;
  /** Frames from the top that make stacks alike; 0 for all. */
  top: number;
  /** Pools whose folded threads are shown one by one. */
  unfolded: string[];
}

export function readState(query: URLSearchParams): ThreadsState {
  const pick = <T extends string>(name: string, known: readonly T[]): T | undefined =>
    known.find((one) => one === query.get(name));
  const whole = (name: string, otherwise: number): number => {
    const value = Number(query.get(name) ?? NaN);
    return Number.isInteger(value) && value >= 0 ? value : otherwise;
  };
  return {
    show: pick('show', SHOWS) ?? 'waits',
    dump: whole('dump', 0),
    thread: whole('thread', -1),
    pool: query.get('pool') ?? '',
    mode: pick('mode', THREAD_MODES) ?? '',
    from: query.get('package') ?? '',
    find: query.get('find') ?? '',
    system: query.get('system') === '1',
    daemons: query.get('daemons') === '1',
    top: whole('top', 0),
    unfolded: query.getAll('unfold')
  };
}

export function writeState(query: URLSearchParams, state: ThreadsState): URLSearchParams {
  const next = new URLSearchParams(query);
  const set = (name: string, value: string): void =>
    value === '' ? next.delete(name) : next.set(name, value);
  set('show', state.show === 'waits' ? '' : state.show);
  set('dump', state.dump > 0 ? String(state.dump) : '');
  set('thread', state.thread >= 0 ? String(state.thread) : '');
  set('pool', state.pool);
  set('mode', state.mode);
  set('package', state.from);
  set('find', state.find);
  set('system', state.system ? '1' : '');
  set('daemons', state.daemons ? '1' : '');
  set('top', state.top > 0 ? String(state.top) : '');
  next.delete('unfold');
  for (const pool of state.unfolded) next.append('unfold', pool);
  return next;
}

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
  }: Omit<ThreadsState, 'show' | 'dump' | 'thread' | 'top' | 'unfolded'>
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
