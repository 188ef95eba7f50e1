import {
  closeSync,
  existsSync,
  fstatSync,
  mkdirSync,
  openSync,
  readFileSync,
  readSync,
  writeSync
} from 'node:fs';
import path from 'node:path';
import type { ByteSource } from '@tromix/core/heap/byte-source';
import {
  COLUMN_TYPES,
  type ColumnName,
  type HeapColumns,
  type HeapMeta,
  type HeapStore
} from '@tromix/core/heap/heap-store';

/** Counts up with the layout of the columns: an index of another version is built anew. */
const VERSION = 1;

/** Where the index of a dump lies: a cache, safe to delete. */
export const indexFolder = (dataFolder: string, id: string, weakKeep = false): string =>
  path.join(dataFolder, 'index', `v${VERSION}`, weakKeep ? `${id}-weak` : id);

const META = 'meta.json';
/** A gzip dump lies inflated beside its index: records are read again from anywhere in it. */
export const INFLATED = 'dump';

export const isIndexed = (folder: string): boolean => existsSync(path.join(folder, META));

/** Bytes written at once: one call takes no more than 2 GiB. */
const WRITE = 256 * 1024 * 1024;

export function writeColumn<K extends ColumnName>(folder: string, name: K, column: HeapColumns[K]): void {
  mkdirSync(folder, { recursive: true });
  const bytes = new Uint8Array(column.buffer, column.byteOffset, column.byteLength);
  const handle = openSync(path.join(folder, name), 'w');
  try {
    for (let at = 0; at < bytes.length;)
      at += writeSync(handle, bytes, at, Math.min(WRITE, bytes.length - at));
  } finally {
    closeSync(handle);
  }
}

/** Bytes of a file from anywhere. */
export function fileSource(file: string): ByteSource & { close: () => void } {
  const handle = openSync(file, 'r');
  return {
    length: fstatSync(handle).size,
    read: (offset, into) => readSync(handle, into, 0, into.length, offset),
    close: () => closeSync(handle)
  };
}

/** An index as it lies on disk: columns are read when they are first asked for. */
export function openIndex(folder: string, dump: string): HeapStore & { close: () => void } {
  const meta = JSON.parse(readFileSync(path.join(folder, META), 'utf8')) as HeapMeta;
  const inflated = path.join(folder, INFLATED);
  const source = fileSource(existsSync(inflated) ? inflated : dump);
  const columns = new Map<ColumnName, HeapColumns[ColumnName]>();
  return {
    meta,
    source,
    close: source.close,
    column<K extends ColumnName>(name: K): HeapColumns[K] {
      let known = columns.get(name);
      if (!known) columns.set(name, (known = readColumn(folder, name)));
      return known as HeapColumns[K];
    }
  };
}

function readColumn(folder: string, name: ColumnName): HeapColumns[ColumnName] {
  const file = fileSource(path.join(folder, name));
  try {
    const bytes = new Uint8Array(file.length);
    for (let at = 0; at < bytes.length;) {
      const got = file.read(at, bytes.subarray(at, at + WRITE));
      if (got === 0) throw new Error(`The index file ${name} ends early.`);
      at += got;
    }
    return new COLUMN_TYPES[name](bytes.buffer);
  } finally {
    file.close();
  }
}

export const metaFile = (folder: string): string => path.join(folder, META);

/** What is being done while an index is built, by number. */
export const DOING = [
  'waiting',
  'inflating',
  'reading',
  'who keeps whom',
  'ways from roots',
  'writing'
] as const;
