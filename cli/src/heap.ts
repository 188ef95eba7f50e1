import {
  closeSync,
  createReadStream,
  createWriteStream,
  fstatSync,
  mkdtempSync,
  openSync,
  readSync,
  rmSync
} from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { createGunzip } from 'node:zlib';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import { isGzip } from '@tromix/core/formats/gzip';
import { MemoryColumns } from '@tromix/core/heap/column-store';
import { buildHeapIndex } from '@tromix/core/heap/build-index';
import { heapFormat } from '@tromix/core/heap/heap-format';
import type { ByteSource } from '@tromix/core/heap/byte-source';
import type { HeapFormat } from '@tromix/core/heap/heap-index';
import { inspectHeap, type InspectedHeap } from '@tromix/core/inspect/heap';
import type { Warning } from '@tromix/core/formats/evidence-error';

/** A dump inflates to so much at most, and to so many times its size: beyond it is a bomb. */
const MAX_INFLATED = 64 * 1024 ** 3;
const MAX_RATIO = 200;
const HEAD = 64 * 1024;
/** Of 16 KiB each. */
const HEAD_PARTS = 16;

export interface InspectedHeapFile {
  format: HeapFormat;
  warnings: Warning[];
  heap: InspectedHeap;
}

/** The first bytes of a file as they are stored. */
export async function bytesAt(file: string): Promise<Uint8Array> {
  const parts: Buffer[] = [];
  const stream = createReadStream(file, { end: HEAD });
  for await (const part of stream) parts.push(part as Buffer);
  return Buffer.concat(parts);
}

/** The first bytes of a file, inflated where it is gzip. */
export async function headOf(file: string): Promise<Uint8Array> {
  const head = await bytesAt(file);
  if (!isGzip(head)) return head;
  const inflate = createGunzip();
  inflate.end(head);
  const inflated: Buffer[] = [];
  try {
    // A few bytes may inflate to any length: the beginning is enough.
    for await (const part of inflate) if (inflated.push(part as Buffer) >= HEAD_PARTS) break;
  } catch {
    // The head breaks off within the gzip data: what came before is enough.
  }
  return Buffer.concat(inflated);
}

/** Reads a heap dump as a stream; null where the file is none. @throws EvidenceError as the reader. */
export async function inspectHeapFile(file: string, top: number): Promise<InspectedHeapFile | null> {
  const format = heapFormat(await headOf(file));
  if (!format) return null;
  const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-heap-'));
  try {
    const plain = await inflated(file, path.join(folder, 'dump'));
    const handle = openSync(plain, 'r');
    try {
      const columns = new MemoryColumns();
      const source = fileSource(handle);
      const meta = buildHeapIndex(source, format, columns);
      const heap = inspectHeap({ meta, source, column: (name) => columns.get(name) }, top);
      return { format, warnings: meta.warnings, heap };
    } finally {
      closeSync(handle);
    }
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

function fileSource(handle: number): ByteSource {
  return {
    length: fstatSync(handle).size,
    read: (offset, into) => readSync(handle, into, 0, into.length, offset)
  };
}

/** A gzip file inflated beside; any other is taken as it is. @throws EvidenceError `inflated-too-large`, `damaged-gzip`. */
async function inflated(file: string, to: string): Promise<string> {
  const handle = openSync(file, 'r');
  const begin = new Uint8Array(3);
  readSync(handle, begin, 0, 3, 0);
  const stored = fstatSync(handle).size;
  closeSync(handle);
  if (!isGzip(begin)) return file;
  let bytes = 0;
  const limit = new Transform({
    transform(part: Buffer, _, done) {
      bytes += part.length;
      if (bytes > MAX_INFLATED || (bytes > HEAD * 1024 && bytes > stored * MAX_RATIO))
        done(
          new EvidenceError(
            'inflated-too-large',
            `The file inflates to more than ${MAX_RATIO} times its size: it is no dump.`
          )
        );
      else done(null, part);
    }
  });
  try {
    await pipeline(createReadStream(file), createGunzip(), limit, createWriteStream(to));
  } catch (cause) {
    if (cause instanceof EvidenceError) throw cause;
    // What could be inflated of a file that is cut off is read; the reader says where it ends.
    if (bytes === 0)
      throw new EvidenceError(
        'damaged-gzip',
        `The gzip data cannot be inflated: ${(cause as Error).message}.`
      );
  }
  return to;
}
