import {
  closeSync,
  existsSync,
  fstatSync,
  mkdirSync,
  openSync,
  readFileSync,
  readSync,
  writeFileSync,
  writeSync
} from 'node:fs';
import { createHash } from 'node:crypto';
import path from 'node:path';
import type { ByteSource } from '@tromix/core/heap/byte-source';
import type { ColumnStore } from '@tromix/core/heap/column-store';
import {
  COLUMN_TYPES,
  heldColumns,
  type ColumnName,
  type HeapColumns,
  type HeapMeta,
  type HeapStore
} from '@tromix/core/heap/heap-store';

/** Counts up with the layout of the columns: an index of another version is built anew. */
const VERSION = 2;

/** Where the index of a dump lies: a cache, safe to delete. */
export const indexFolder = (dataFolder: string, id: string, weakKeep = false): string =>
  path.join(dataFolder, 'index', `v${VERSION}`, weakKeep ? `${id}-weak` : id);

const META = 'meta.json';
/** A gzip dump lies inflated beside its index: records are read again from anywhere in it. */
export const INFLATED = 'dump';

/** How the file of a column should be. */
interface FileFacts {
  bytes: number;
  digest: string;
}
/** What lies in `META`: the index's own facts, and how its files should be. */
interface StoredMeta {
  meta: HeapMeta;
  files: Record<string, FileFacts>;
}

/** Blocks of a file that are looked at, and bytes of each: enough to see a file that was cut, overwritten or mixed up. */
const BLOCKS = 64;
const BLOCK = 4096;

function factsOf(file: string): FileFacts {
  const handle = openSync(file, 'r');
  try {
    const bytes = fstatSync(handle).size;
    const hash = createHash('sha256');
    const block = new Uint8Array(BLOCK);
    const step = Math.max(BLOCK, Math.floor(bytes / BLOCKS));
    for (let at = 0; at < bytes; at += step) {
      const place = Math.min(at, Math.max(0, bytes - BLOCK));
      hash.update(block.subarray(0, readSync(handle, block, 0, BLOCK, place)));
    }
    return { bytes, digest: hash.digest('hex') };
  } finally {
    closeSync(handle);
  }
}

/** Writes down that an index is complete, and how its files are. */
export function writeMeta(folder: string, meta: HeapMeta): void {
  const files = Object.fromEntries(
    Object.keys(COLUMN_TYPES).map((name) => [name, factsOf(path.join(folder, name))])
  );
  const stored: StoredMeta = { meta, files };
  writeFileSync(path.join(folder, META), JSON.stringify(stored));
}

/** Indexes whose files were looked at since the server started. */
const looked = new Set<string>();

/** True for an index that is whole. One that is damaged counts as none: it is built anew. */
export function isIndexed(folder: string): boolean {
  if (!existsSync(path.join(folder, META))) {
    looked.delete(folder);
    return false;
  }
  if (looked.has(folder)) return true;
  try {
    const { files } = readMeta(folder);
    for (const name of Object.keys(COLUMN_TYPES)) {
      const { bytes, digest } = factsOf(path.join(folder, name));
      if (files[name].bytes !== bytes || files[name].digest !== digest) return false;
    }
  } catch {
    return false;
  }
  looked.add(folder);
  return true;
}

const readMeta = (folder: string): StoredMeta =>
  JSON.parse(readFileSync(path.join(folder, META), 'utf8')) as StoredMeta;

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
  const { meta } = readMeta(folder);
  const inflated = path.join(folder, INFLATED);
  const source = fileSource(existsSync(inflated) ? inflated : dump);
  const columns = new Map<ColumnName, HeapColumns[ColumnName]>();
  const column = <K extends ColumnName>(name: K): HeapColumns[K] => {
    let known = columns.get(name);
    if (!known) columns.set(name, (known = readColumn(folder, name)));
    return known as HeapColumns[K];
  };
  return { meta, source, close: source.close, ...heldColumns(column) };
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

/** What is being done while an index is built, by number. */
export const DOING = [
  'waiting',
  'inflating',
  'reading',
  'dominators',
  'paths from roots',
  'writing'
] as const;
