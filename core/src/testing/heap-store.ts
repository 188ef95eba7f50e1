import { buildHeapIndex, type BuildOptions } from '../heap/build-index';
import { bytesSource } from '../heap/byte-source';
import { heapFormat } from '../heap/heap-format';
import { memoryStore, type HeapColumns, type HeapStore } from '../heap/heap-store';

/** Indexes a dump that lies in memory. */
export function indexed(bytes: Uint8Array, options: BuildOptions = {}): HeapStore {
  const source = bytesSource(bytes);
  const columns = {} as HeapColumns;
  const format = heapFormat(bytes) ?? 'hprof';
  const meta = buildHeapIndex(source, format, (name, column) => void (columns[name] = column), options);
  return memoryStore(meta, columns, source);
}
