import { readFileSync } from 'node:fs';
import path from 'node:path';
import { gunzipSync } from 'fflate';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { inspectHeap } from '../inspect/heap';
import { indexed } from '../testing/heap-store';
import { bytesSource } from './byte-source';
import type { ColumnAccess, ColumnName, HeapStore } from './heap-store';
import { sparingColumns } from './sparing-columns';

const nothing = (): void => undefined;
const bytesOf = ({ buffer, byteOffset, byteLength }: ArrayBufferView): Uint8Array =>
  new Uint8Array(buffer as ArrayBuffer, byteOffset, byteLength);
/** The columns of an index as if they lay in files. */
const sparing = ({ column }: ColumnAccess, maxBytes: number): ColumnAccess =>
  sparingColumns((name) => bytesSource(bytesOf(column(name))), maxBytes, nothing);

describe('columns that stay in their files', () => {
  // Longer than all pages that are held.
  const values = Float64Array.from({ length: 300_000 }, (_, i) => i * 7);
  const columns = (): ColumnAccess => sparingColumns(() => bytesSource(bytesOf(values)), 0, nothing);

  it('tell single values and parts as the whole column does', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(300_010), fc.nat(9000)), { maxLength: 20 }), (parts) => {
        const some = columns();
        for (const [from, length] of parts) {
          expect(some.at('retained', from)).toBe(values[from]);
          expect(some.range('retained', from, from + length)).toEqual(values.slice(from, from + length));
        }
      }),
      { numRuns: 30 }
    );
  });

  it('let the one go that was not asked for longest', () => {
    const reads: string[] = [];
    const one = sparingColumns(
      (name) => ({
        length: 80,
        read(_, into) {
          reads.push(name);
          into.fill(0);
          return into.length;
        }
      }),
      160,
      nothing
    );
    for (const name of ['ids', 'retained', 'ids', 'shallow', 'ids', 'retained'] as ColumnName[])
      expect(one.column(name).byteLength).toBe(80);
    expect(reads).toEqual(['ids', 'retained', 'shallow', 'retained']);
  });

  it.each(['chain.hprof.gz', 'grid.hprof.gz', 'chain.heapsnapshot.gz'])(
    'lead to the same words about %s',
    (name) => {
      const stored = readFileSync(path.resolve(import.meta.dirname, '../../../recordings/heap', name));
      const store = indexed(gunzipSync(stored), { mostStrings: Infinity });
      const inspected = (one: HeapStore, top: number): unknown => {
        const { largest, duplicateStrings, ...rest } = inspectHeap(one, top);
        return { ...rest, largest: [...largest], texts: [...duplicateStrings.top] };
      };
      for (const top of [1, 50])
        expect(inspected({ ...store, ...sparing(store, 0) }, top)).toEqual(inspected(store, top));
    }
  );
});

describe('all of every list', () => {
  it('is whole where nothing limits it', () => {
    const stored = readFileSync(path.resolve(import.meta.dirname, '../../../recordings/heap/grid.hprof.gz'));
    const store = indexed(gunzipSync(stored), { mostStrings: Infinity });
    const { largest, classes, duplicateStrings } = inspectHeap(store, 0);
    let [count, last] = [0, Infinity];
    for (const { retainedBytes } of largest) {
      expect(retainedBytes).toBeLessThanOrEqual(last);
      [count, last] = [count + 1, retainedBytes];
    }
    expect(count).toBe(store.meta.liveObjects);
    expect(classes).toHaveLength(store.meta.classes.filter((one) => one.count > 0).length);
    expect([...duplicateStrings.top]).toHaveLength(store.meta.duplicateGroups);
  });
});
