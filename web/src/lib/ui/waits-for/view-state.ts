import { THREAD_MODES, type DumpThread, type ThreadMode } from '@tromix/core/threads/model';
import { poolPattern } from '@tromix/core/threads/pools';
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
  /** Text that a thread's name or a frame of its stack holds. */
  find: string;
  /** Threads of the runtime itself are listed too. */
  system: boolean;
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
    find: query.get('find') ?? '',
    system: query.get('system') === '1',
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
  set('find', state.find);
  set('system', state.system ? '1' : '');
  set('top', state.top > 0 ? String(state.top) : '');
  next.delete('unfold');
  for (const pool of state.unfolded) next.append('unfold', pool);
  return next;
}

/** Threads that the filters leave, by index. */
export function matching(
  frames: readonly ThreadFrame[],
  threads: readonly DumpThread[],
  { pool, mode, find, system }: ThreadsState
): number[] {
  const text = find.trim().toLowerCase();
  const found =
    text === ''
      ? null
      : frames.map(({ name, file, package: from }) => `${name} ${file} ${from}`.toLowerCase().includes(text));
  return threads.flatMap((thread, i) => {
    if (!system && thread.system) return [];
    if (mode !== '' && thread.mode !== mode) return [];
    if (pool !== '' && poolPattern(thread.name) !== pool && thread.name !== pool) return [];
    if (found && !thread.name.toLowerCase().includes(text) && !thread.frames.some((frame) => found[frame]))
      return [];
    return [i];
  });
}
