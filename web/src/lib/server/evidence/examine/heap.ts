import { ByteCursor, bytesSource } from '@tromix/core/heap/byte-source';
import { readHead } from '@tromix/core/heap/hprof-walk';
import type { Examiner } from '../kind';

/** Heap dumps may be larger than any memory: they are indexed as streams, later. */
export const examineHeap: Examiner<'heap'> = ({ head }, format) => {
  const takenMs = format === 'hprof' ? readHead(new ByteCursor(bytesSource(head))).capturedAtMs : 0;
  return Promise.resolve({
    kind: 'heap',
    format,
    summary: null,
    startedAtUs: takenMs > 0 ? takenMs * 1000 : null,
    durationNs: 0,
    warnings: []
  });
};
