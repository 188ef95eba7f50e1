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
import type { ColumnStore } from '@tromix/core/heap/column-store';
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

const bytesOf = (column: HeapColumns[ColumnName]): Uint8Array =>
  new Uint8Array(column.buffer, column.byteOffset, column.byteLength);

/** Columns as files of a folder, while an index is built. */
export class ColumnFiles implements ColumnStore {
  readonly #folder: string;
  /** Files that are written piece by piece. */
  readonly #open = new Map<ColumnName, number>();

  constructor(folder: string) {
    this.#folder = folder;
    mkdirSync(folder, { recursive: true });
  }

  put<K extends ColumnName>(name: K, column: HeapColumns[K]): void {
    const handle = openSync(path.join(this.#folder, name), 'w');
    try {
      write(handle, bytesOf(column));
    } finally {
      closeSync(handle);
    }
  }

  append<K extends ColumnName>(name: K, piece: HeapColumns[K]): void {
    let handle = this.#open.get(name);
    if (handle === undefined) {
      handle = openSync(path.join(this.#folder, name), 'w');
      this.#open.set(name, handle);
    }
    write(handle, bytesOf(piece));
  }

  get<K extends ColumnName>(name: K): HeapColumns[K] {
    const exists = existsSync(path.join(this.#folder, name));
    return (exists ? readColumn(this.#folder, name) : new COLUMN_TYPES[name](0)) as HeapColumns[K];
  }

  close(): void {
    for (const handle of this.#open.values()) closeSync(handle);
    this.#open.clear();
  }

  /** Every column is a file in the end, also those that this kind of dump does not have. */
  finish(): void {
    for (const name of Object.keys(COLUMN_TYPES) as ColumnName[])
      if (!existsSync(path.join(this.#folder, name))) this.put(name, new COLUMN_TYPES[name](0) as never);
  }
}

function write(handle: number, bytes: Uint8Array): void {
  for (let at = 0; at < bytes.length;) at += writeSync(handle, bytes, at, Math.min(WRITE, bytes.length - at));
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
