import { buildHeapIndex, type BuildOptions } from '../heap/build-index';
import { bytesSource } from '../heap/byte-source';
import { MemoryColumns } from '../heap/column-store';
import { heapFormat } from '../heap/heap-format';
import { heldColumns, type HeapStore } from '../heap/heap-store';

/** Indexes a dump that lies in memory. */
export function indexed(bytes: Uint8Array, options: BuildOptions = {}): HeapStore {
  const source = bytesSource(bytes);
  const columns = new MemoryColumns();
  const meta = buildHeapIndex(source, heapFormat(bytes) ?? 'hprof', columns, options);
  return { meta, source, ...heldColumns((name) => columns.get(name)) };
}
