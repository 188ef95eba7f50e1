import { formatDuration } from '@tromix/core/text/format';
import { DOING_WORDS, doingOfThread } from '@tromix/core/threads/doing';
import { THREAD_MODES, type DumpThread, type ThreadDump, type ThreadFrame } from '@tromix/core/threads/model';
import { placeOf, placeWords } from '@tromix/core/threads/places';
import type { Pool } from '@tromix/core/threads/pools';
import type { Column } from '../tables/columns';
import { countColumn, durationColumn, shareColumn } from '../tables/column-makers';
import { MODES } from './modes';

/** A thread of one dump as a table lists it. */
export interface ThreadRow {
  index: number;
  thread: DumpThread;
  place: string;
  doing: string;
  /** CPU since the dump before, milliseconds; null where that is not reported. */
  deltaMs: number | null;
  /** CPU as a part of the thread's life. */
  share: number | null;
}

/** @param deltas CPU since the dump before, by thread. */
export const threadRows = (
  frames: readonly ThreadFrame[],
  { threads }: ThreadDump,
  chosen: readonly number[],
  deltas: ReadonlyMap<number, number | null>
): ThreadRow[] =>
  chosen.map((index) => {
    const thread = threads[index];
    const { cpuMs, elapsedMs, system } = thread;
    const place = placeOf(frames, thread);
    return {
      index,
      thread,
      place: place ? placeWords(place) : '',
      doing: system ? 'the runtime’s own' : DOING_WORDS[doingOfThread(frames, thread)],
      deltaMs: deltas.get(index) ?? null,
      share: cpuMs !== null && elapsedMs ? Math.min(1, cpuMs / elapsedMs) : null
    };
  });

const ns = (ms: number | null): number | null => (ms === null ? null : ms * 1e6);
const timeColumn = (
  key: string,
  title: string,
  about: string,
  value: (row: ThreadRow) => number | null
): Column<ThreadRow> => durationColumn(key, title, value, { width: 72, about });

export const THREAD_COLUMNS: Column<ThreadRow>[] = [
  {
    key: 'name',
    title: 'thread',
    width: 150,
    value: ({ thread }) => thread.name,
    text: ({ thread }) => thread.name || '(no name)'
  },
  {
    key: 'state',
    title: 'state',
    width: 84,
    value: ({ thread }) => thread.mode,
    text: ({ thread }) => MODES[thread.mode].name
  },
  { key: 'doing', title: 'doing', width: 160, value: ({ doing }) => doing, text: ({ doing }) => doing },
  {
    key: 'place',
    title: 'stands at',
    width: 176,
    grows: true,
    value: ({ place }) => place,
    text: ({ place }) => place || 'no stack'
  },
  timeColumn('cpu', 'CPU', 'CPU time since the thread began', ({ thread }) => ns(thread.cpuMs)),
  shareColumn('share', 'of life', ({ share }: ThreadRow) => share, {
    width: 64,
    about: 'CPU time as a share of the thread’s life'
  }),
  timeColumn('delta', 'since', 'CPU time since the dump before', ({ deltaMs }) => ns(deltaMs))
];

export const POOL_COLUMNS: Column<Pool>[] = [
  {
    key: 'pool',
    title: 'pool',
    about: 'Names with their last number as *',
    width: 220,
    grows: true,
    value: ({ pattern }) => pattern,
    text: ({ pattern }) => pattern
  },
  countColumn('size', 'threads', ({ threads }) => threads.length, { width: 76 }),
  countColumn('busy', 'busy', ({ busy }) => busy, { width: 66, about: 'At work, or held up in it' }),
  countColumn('idle', 'idle', ({ idle }) => idle, {
    width: 66,
    about: 'Wait for work, in the runtime’s own code'
  }),
  countColumn('undecided', 'unclear', ({ undecided }) => undecided, {
    width: 72,
    about: 'Wait for something in the program’s own code: for work, or for another thread'
  }),
  ...THREAD_MODES.slice(0, 4).map((mode) =>
    countColumn<Pool>(mode, MODES[mode].name, ({ modes }) => modes[mode], { width: 78 })
  )
];

/** How far apart dumps are, in words; '' for one. */
export const apartWords = (apartMs: number): string =>
  apartMs > 0 ? `, ${formatDuration(apartMs * 1e6)} apart` : '';
