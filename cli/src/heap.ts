import path from 'node:path';
import type { Warning } from '@tromix/core/formats/evidence-error';
import { buildHeapIndex } from '@tromix/core/heap/build-index';
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

export interface InspectedHeapFile {
  warnings: Warning[];
  heap: InspectedHeap;
}

/**
 * Reads a heap dump as a stream, with its index as files, as the server does.
 * @param scratch keeps the files while the long lists of the result are read.
 * @throws EvidenceError as the reader.
 */
export async function inspectHeapFile(
  file: string,
  format: HeapFormat,
  top: number,
  scratch: Scratch
): Promise<InspectedHeapFile> {
  const folder = scratch.folder();
  const dump = await inflateDump(file, path.join(folder, INFLATED), MAX_INFLATED);
  const source = scratch.keep(fileSource(dump));
  const columns = scratch.keep(new ColumnFiles(folder));
  const meta = buildHeapIndex(source, format, columns, { mostStrings: top === 0 ? Infinity : top, reclaim });
  columns.finish();
  columns.close();
  const access = sparingColumns(
    (name) => scratch.keep(fileSource(path.join(folder, name))),
    HELD_SHARE * source.length,
    reclaim
  );
  return { warnings: meta.warnings, heap: inspectHeap({ meta, source, ...access }, top) };
}
