import {
  existsSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  truncateSync,
  writeFileSync
} from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { gunzipSync } from 'node:zlib';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { buildHeapIndex } from '@tromix/core/heap/build-index';
import { bytesSource } from '@tromix/core/heap/byte-source';
import { MemoryColumns } from '@tromix/core/heap/column-store';
import { COLUMN_TYPES, type ColumnName } from '@tromix/core/heap/heap-store';
import { reclaim } from '../reclaim';
import type { HeapMeta } from '@tromix/core/heap/heap-store';
import { ColumnFiles, fileSource, indexFolder, isIndexed, openIndex, writeMeta } from './index-files';

const NAMES = Object.keys(COLUMN_TYPES) as ColumnName[];
const inflated = (file: string): Uint8Array =>
  new Uint8Array(gunzipSync(readFileSync(new URL(`../../../../../${file}`, import.meta.url))));

let folder: string;
beforeEach(() => (folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-columns-'))));
afterEach(() => rmSync(folder, { recursive: true, force: true }));

describe('columns as files', () => {
  it('come back as they were put, whole or piece by piece', () => {
    const files = new ColumnFiles(folder);
    files.put('shallow', Uint32Array.of(1, 2, 0xffffffff));
    files.append('ids', Float64Array.of(1, 2 ** 52));
    files.append('ids', Float64Array.of(3));
    // What comes back may be asked for while more is still being written.
    expect(files.get('ids')).toEqual(Float64Array.of(1, 2 ** 52, 3));
    files.append('ids', Float64Array.of(4));
    expect(files.get('ids')).toHaveLength(4);
    expect(files.get('shallow')).toEqual(Uint32Array.of(1, 2, 0xffffffff));
    files.close();
  });

  it('hold a copy: what was handed over may be overwritten', () => {
    const files = new ColumnFiles(folder);
    const piece = Uint8Array.of(1, 2, 3);
    files.append('kind', piece.subarray(0, 2));
    piece.fill(9);
    files.append('kind', piece.subarray(2));
    expect(files.get('kind')).toEqual(Uint8Array.of(1, 2, 9));
    files.close();
  });

  it('are empty where they were never put, and files all the same in the end', () => {
    const files = new ColumnFiles(folder);
    expect(files.get('edgeName')).toHaveLength(0);
    files.finish();
    expect(readdirSync(folder).sort()).toEqual([...NAMES].sort());
    files.close();
  });

  it.each([
    ['hprof', 'core/fixtures/heap/tides.hprof.gz'],
    ['v8-heap-snapshot', 'workload/recordings/heap-tides-1.heapsnapshot.gz']
  ] as const)('of a %s dump are those that memory would hold', (format, file) => {
    const source = bytesSource(inflated(file));
    const memory = new MemoryColumns();
    const files = new ColumnFiles(folder);
    let freed = 0;
    const inMemory = buildHeapIndex(source, format, memory);
    const inFiles = buildHeapIndex(source, format, files, {
      reclaim: () => {
        freed++;
        reclaim();
      }
    });
    files.close();
    expect(inFiles).toEqual(inMemory);
    expect(freed).toBeGreaterThan(3);
    for (const name of NAMES) {
      const [mine, theirs] = [files.get(name), memory.get(name)].map(({ buffer, byteOffset, byteLength }) =>
        Buffer.from(buffer, byteOffset, byteLength)
      );
      expect(mine.equals(theirs), name).toBe(true);
    }
  });
});

describe('an index on disk', () => {
  const write = (): string => {
    const dump = path.join(folder, 'as-uploaded');
    const index = path.join(folder, 'index');
    writeFileSync(dump, 'the dump itself');
    const files = new ColumnFiles(index);
    files.put('shallow', Uint32Array.of(7, 8));
    files.finish();
    files.close();
    expect(isIndexed(index)).toBe(false);
    writeMeta(index, { format: 'hprof', count: 2 } as HeapMeta);
    expect(isIndexed(index)).toBe(true);
    return index;
  };

  it('is opened by its head alone; each column is read once, when it is asked for', () => {
    const index = write();
    const store = openIndex(index, path.join(folder, 'as-uploaded'));
    expect(store.meta.count).toBe(2);
    const shallow = store.column('shallow');
    rmSync(path.join(index, 'shallow'));
    expect(store.column('shallow')).toBe(shallow);
    const bytes = new Uint8Array(4);
    expect(store.source.read(4, bytes)).toBe(4);
    expect(new TextDecoder().decode(bytes)).toBe('dump');
    store.close();
  });

  it('of a gzip dump reads the inflated bytes that lie beside it', () => {
    const index = write();
    writeFileSync(path.join(index, 'dump'), 'inflated');
    const store = openIndex(index, path.join(folder, 'as-uploaded'));
    expect(store.source.length).toBe(8);
    store.close();
  });

  it('with a column that is cut off says so instead of giving wrong numbers', () => {
    const index = write();
    truncateSync(path.join(index, 'shallow'), 6);
    const store = openIndex(index, path.join(folder, 'as-uploaded'));
    expect(() => store.column('shallow')).toThrow();
    store.close();
  });

  it('lies beside the other of the same dump that lets weak references keep alive', () => {
    const [strong, weak] = [indexFolder('/data', 'a'.repeat(64)), indexFolder('/data', 'a'.repeat(64), true)];
    expect(strong).not.toBe(weak);
    expect(path.dirname(strong)).toBe(path.dirname(weak));
    expect(existsSync(strong)).toBe(false);
  });
});

describe('a file as a source of bytes', () => {
  it('gives what is there from anywhere, and fewer only at the end', () => {
    const file = path.join(folder, 'bytes');
    writeFileSync(
      file,
      Uint8Array.from({ length: 10 }, (_, i) => i)
    );
    const source = fileSource(file);
    const into = new Uint8Array(4);
    expect([source.length, source.read(8, into), source.read(3, into)]).toEqual([10, 2, 4]);
    expect([...into]).toEqual([3, 4, 5, 6]);
    source.close();
  });
});
