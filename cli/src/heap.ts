import { createReadStream } from 'node:fs';
import path from 'node:path';
import { createGunzip } from 'node:zlib';
import type { Warning } from '@tromix/core/formats/evidence-error';
import { isGzip } from '@tromix/core/formats/gzip';
import { buildHeapIndex } from '@tromix/core/heap/build-index';
import { heapFormat } from '@tromix/core/heap/heap-format';
import type { HeapFormat } from '@tromix/core/heap/heap-index';
import { sparingColumns } from '@tromix/core/heap/sparing-columns';
import { inspectHeap, type InspectedHeap } from '@tromix/core/inspect/heap';
import { ColumnFiles, fileSource, INFLATED } from '../../web/src/lib/server/heap/index-files';
import { inflateDump } from '../../web/src/lib/server/heap/inflate-dump';
import { reclaim } from '../../web/src/lib/server/reclaim';
import type { Scratch } from './scratch';

/** What a dump may inflate to. */
const MAX_INFLATED = { maxBytes: 64 * 1024 ** 3, setting: 'the longest dump this command reads' };
/** Part of the dump's length that columns of its index may take in memory while it is looked at. */
const HELD_SHARE = 0.3;
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

/**
 * Reads a heap dump as a stream, with its index as files, as the server does; null where the file is none.
 * @param scratch keeps the files while the long lists of the result are read.
 * @throws EvidenceError as the reader.
 */
export async function inspectHeapFile(
  file: string,
  top: number,
  scratch: Scratch
): Promise<InspectedHeapFile | null> {
  const format = heapFormat(await headOf(file));
  if (!format) return null;
  const folder = scratch.folder();
  const dump = await inflateDump(file, path.join(folder, INFLATED), MAX_INFLATED);
  const source = scratch.keep(fileSource(dump));
  const columns = scratch.keep(new ColumnFiles(folder));
  const meta = buildHeapIndex(source, format, columns, { mostTexts: top === 0 ? Infinity : top, reclaim });
  columns.finish();
  columns.close();
  const access = sparingColumns(
    (name) => scratch.keep(fileSource(path.join(folder, name))),
    HELD_SHARE * source.length,
    reclaim
  );
  return { format, warnings: meta.warnings, heap: inspectHeap({ meta, source, ...access }, top) };
}
