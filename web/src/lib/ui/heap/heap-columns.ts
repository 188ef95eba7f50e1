import type { ClassGrowth } from '@tromix/core/heap/heap-diff';
import type { HeapMeta } from '@tromix/core/heap/heap-store';
import type { Column } from '../tables/columns';
import { bytesColumn, countColumn, moreBytesColumn, moreColumn, shareColumn } from '../tables/column-makers';
import type { RepeatedString } from './heap-client';

export type ClassRow = HeapMeta['classes'][number];
export type PackageRow = HeapMeta['packages'][number];

/** What the engine makes for itself: V8 names it in brackets, or as of its system (its heap snapshots; common practice). */
const SYNTHETIC = /^(?:\(.*\)$|system\b)/;
const rankOf = ({ own, name }: ClassRow): number => (own ? 0 : SYNTHETIC.test(name) ? 2 : 1);

/** The program's own classes first, the engine's own last; among each the largest first. */
export const inOrder = (rows: readonly ClassRow[]): ClassRow[] =>
  rows.toSorted((a, b) => rankOf(a) - rankOf(b) || b.retainedBytes - a.retainedBytes);

/** @param all objects and bytes of the dump. @param growth of each class against an earlier dump; null where there is none. */
export function classColumns(
  all: { objects: number; bytes: number },
  growth: ReadonlyMap<string, ClassGrowth> | null
): Column<ClassRow>[] {
  const since = ({ name }: ClassRow): number => {
    const one = growth?.get(name);
    return one ? one.after.count - one.before.count : 0;
  };
  return [
    { key: 'class', title: 'class', width: 220, grows: true, value: ({ name }) => name },
    countColumn('objects', 'objects', ({ count }) => count),
    shareColumn('countShare', 'of all', ({ count }) => count / Math.max(1, all.objects), {
      about: 'Share of all objects'
    }),
    ...(growth
      ? [moreColumn('since', 'since', since, { width: 80, about: 'Objects more than in the earlier dump' })]
      : []),
    bytesColumn('shallow', 'shallow', ({ shallowBytes }) => shallowBytes, {
      width: 80,
      about: 'Bytes of the objects themselves'
    }),
    shareColumn('bytesShare', 'of all', ({ shallowBytes }) => shallowBytes / Math.max(1, all.bytes), {
      about: 'Share of the bytes of all objects'
    }),
    {
      key: 'retained',
      title: 'retained',
      about: 'Bytes that would be freed with all of them',
      width: 190,
      value: ({ retainedBytes }) => retainedBytes
    }
  ];
}

export const PACKAGE_COLUMNS: Column<PackageRow>[] = [
  {
    key: 'package',
    title: 'package',
    width: 240,
    grows: true,
    value: ({ name }) => name,
    text: ({ name }) => name || '(default package)'
  },
  countColumn('objects', 'objects', ({ count }) => count, { width: 90 }),
  bytesColumn('shallow', 'shallow', ({ shallowBytes }) => shallowBytes),
  bytesColumn('retained', 'retained', ({ retainedBytes }) => retainedBytes)
];

export const GROWTH_COLUMNS: Column<ClassGrowth>[] = [
  { key: 'class', title: 'class', width: 230, grows: true, value: ({ name }) => name },
  countColumn('before', 'before', ({ before }) => before.count),
  countColumn('after', 'after', ({ after }) => after.count),
  moreColumn('more', 'objects', ({ before, after }) => after.count - before.count, {
    about: 'How many more'
  }),
  moreBytesColumn('shallow', 'shallow', ({ before, after }) => after.shallowBytes - before.shallowBytes),
  moreBytesColumn('retained', 'retained', ({ before, after }) => after.retainedBytes - before.retainedBytes)
];

export const STRING_COLUMNS: Column<RepeatedString>[] = [
  { key: 'value', title: 'text', width: 300, grows: true, value: ({ value }) => value },
  countColumn('count', 'copies', ({ count }) => count, { width: 90 }),
  bytesColumn('wasted', 'wasted', ({ wastedBytes }) => wastedBytes, { about: 'Bytes of all copies but one' })
];
