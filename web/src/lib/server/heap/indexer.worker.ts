import { mkdir, rename, rm } from 'node:fs/promises';
import path from 'node:path';
import { parentPort } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import { buildHeapIndex } from '@tromix/core/heap/build-index';
import { heapFormat } from '@tromix/core/heap/heap-format';
import { namesInHeap } from '@tromix/core/heap/names';
import { summariseHeap, type HeapSummary } from '@tromix/core/heap/summary';
import type { Outcome } from '../ingest/outcome';
import { ColumnFiles, DOING, fileSource, INFLATED, openIndex, writeMeta } from './index-files';
import { reclaim } from '../reclaim';
import { inflateDump } from './inflate-dump';

export interface IndexJob {
  dump: string;
  folder: string;
  weakKeep: boolean;
  maxInflatedBytes: number;
  /** 0: percent done; 1: what is done, a place in `DOING`; 2: not 0 to give up. */
  state: SharedArrayBuffer;
}

class GivenUp extends Error {}

/** Builds indexes of heap dumps, one at a time, in a thread of its own. */
class HeapIndexer {
  async build({
    dump,
    folder,
    weakKeep,
    maxInflatedBytes,
    state
  }: IndexJob): Promise<Outcome<{ summary: HeapSummary; names: string[] }>> {
    const shared = new Int32Array(state);
    const partial = `${folder}.partial`;
    const progress = (doing: string, part: number): void => {
      if (Atomics.load(shared, 2) !== 0) throw new GivenUp();
      Atomics.store(shared, 0, Math.round(part * 100));
      Atomics.store(shared, 1, Math.max(0, (DOING as readonly string[]).indexOf(doing)));
    };
    try {
      await rm(partial, { recursive: true, force: true });
      await mkdir(partial, { recursive: true });
      const limit = { maxBytes: maxInflatedBytes, setting: 'the setting TROMIX_MAX_HEAP_BYTES' };
      const plain = await inflateDump(dump, path.join(partial, INFLATED), limit, () =>
        progress('inflating', 0.5)
      );
      const source = fileSource(plain);
      const columns = new ColumnFiles(partial);
      try {
        const head = new Uint8Array(1024);
        source.read(0, head);
        const format = heapFormat(head);
        if (!format) throw new EvidenceError('not-a-heap', 'The file is no heap dump.', 0);
        const meta = buildHeapIndex(source, format, columns, { weakKeep, onprogress: progress, reclaim });
        progress('writing', 0.9);
        columns.finish();
        columns.close();
        writeMeta(partial, meta);
      } finally {
        columns.close();
        source.close();
      }
      await rm(folder, { recursive: true, force: true });
      await rename(partial, folder);
      return { ok: true, value: summaryOf(folder, dump) };
    } catch (cause) {
      await rm(partial, { recursive: true, force: true });
      if (cause instanceof GivenUp) return { ok: false, code: 'cancelled', message: 'Cancelled.' };
      if (cause instanceof EvidenceError)
        return { ok: false, code: cause.code, message: cause.message, offset: cause.offset };
      const { code, message } = cause as NodeJS.ErrnoException;
      if (code === 'ENOSPC')
        return {
          ok: false,
          code: 'disk-full',
          message:
            'The disk is full: the index could not be written. The dump itself is stored; free some room and open it again.'
        };
      if (cause instanceof RangeError)
        return {
          ok: false,
          code: 'out-of-memory',
          message: `This machine has not enough memory for the dump: ${message}.`
        };
      throw cause;
    }
  }
}
export type { HeapIndexer };

function summaryOf(folder: string, dump: string): { summary: HeapSummary; names: string[] } {
  const store = openIndex(folder, dump);
  try {
    return { summary: summariseHeap(store), names: namesInHeap(store) };
  } finally {
    store.close();
  }
}

expose(new HeapIndexer(), nodeEndpoint(parentPort!));
