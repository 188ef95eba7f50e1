import { createReadStream, createWriteStream, openSync, readSync, closeSync } from 'node:fs';
import { mkdir, rename, rm } from 'node:fs/promises';
import path from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { parentPort } from 'node:worker_threads';
import { createGunzip } from 'node:zlib';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import { isGzip } from '@tromix/core/formats/gzip';
import { findInHeap } from '@tromix/core/findings/heap-findings';
import { buildHeapIndex } from '@tromix/core/heap/build-index';
import { heapFormat } from '@tromix/core/heap/heap-format';
import type { Outcome } from '../ingest/outcome';
import { ColumnFiles, DOING, fileSource, INFLATED, openIndex, writeMeta } from './index-files';
import { reclaim } from '../reclaim';

/** What a list of evidence says of a heap dump. */
export interface HeapSummary {
  objects: number;
  liveBytes: number;
  /** Epoch milliseconds; 0 where unknown. */
  capturedAtMs: number;
  findings: { rule: string; severity: 'high' | 'medium' | 'low'; sentence: string }[];
}

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
  async build({ dump, folder, weakKeep, maxInflatedBytes, state }: IndexJob): Promise<Outcome<HeapSummary>> {
    const told = new Int32Array(state);
    const partial = `${folder}.partial`;
    const progress = (doing: string, part: number): void => {
      if (Atomics.load(told, 2) !== 0) throw new GivenUp();
      Atomics.store(told, 0, Math.round(part * 100));
      Atomics.store(told, 1, Math.max(0, (DOING as readonly string[]).indexOf(doing)));
    };
    try {
      await rm(partial, { recursive: true, force: true });
      await mkdir(partial, { recursive: true });
      const plain = await inflate(dump, path.join(partial, INFLATED), maxInflatedBytes, progress);
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

function summaryOf(folder: string, dump: string): HeapSummary {
  const store = openIndex(folder, dump);
  try {
    const { count, liveBytes, capturedAtMs } = store.meta;
    const findings = findInHeap({ store, difference: null }).map(({ rule, severity, sentence }) => ({
      rule,
      severity,
      sentence
    }));
    return { objects: count, liveBytes, capturedAtMs, findings };
  } finally {
    store.close();
  }
}

/** Beyond so many times its size a gzip file is a bomb; small files may shrink more. */
const MAX_RATIO = 200;
const SMALL = 64 * 1024 * 1024;

async function inflate(
  dump: string,
  to: string,
  maxBytes: number,
  progress: (doing: string, part: number) => void
): Promise<string> {
  const handle = openSync(dump, 'r');
  const begin = new Uint8Array(3);
  readSync(handle, begin, 0, 3, 0);
  closeSync(handle);
  if (!isGzip(begin)) return dump;
  const file = createReadStream(dump);
  let bytes = 0;
  const limit = new Transform({
    transform(part: Buffer, _, done) {
      bytes += part.length;
      try {
        progress('inflating', 0.5);
        if (bytes > maxBytes)
          throw new EvidenceError(
            'inflated-too-large',
            `The dump inflates to more than ${maxBytes} bytes. The limit is the setting TROMIX_MAX_HEAP_BYTES.`
          );
        if (bytes > SMALL && bytes > file.bytesRead * MAX_RATIO)
          throw new EvidenceError(
            'inflated-too-large',
            `The dump inflates to more than ${MAX_RATIO} times its size: it is no dump.`
          );
        done(null, part);
      } catch (cause) {
        done(cause as Error);
      }
    }
  });
  try {
    await pipeline(file, createGunzip(), limit, createWriteStream(to));
  } catch (cause) {
    const { code } = cause as NodeJS.ErrnoException;
    // Of a gzip file that is cut off, what could be inflated is read: the reader says where it ends.
    if (code !== 'Z_BUF_ERROR' || bytes === 0) {
      if (code?.startsWith('Z_'))
        throw new EvidenceError('damaged-gzip', `The gzip data is damaged after ${bytes} bytes.`);
      throw cause;
    }
  }
  return to;
}

expose(new HeapIndexer(), nodeEndpoint(parentPort!));
