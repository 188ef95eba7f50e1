import path from 'node:path';
import type { Warning } from '@tromix/core/formats/evidence-error';
import { buildHeapIndex } from '@tromix/core/heap/build-index';
import type { HeapFormat } from '@tromix/core/heap/heap-index';
import { sparingColumns } from '@tromix/core/heap/sparing-columns';
import { inspectHeap, type InspectedHeap } from '@tromix/core/inspect/heap';
import { formatBytes, formatCount, plural } from '@tromix/core/text/format';
import { ColumnFiles, fileSource, INFLATED } from '../../../web/src/lib/server/heap/index-files';
import { inflateDump } from '../../../web/src/lib/server/heap/inflate-dump';
import { reclaim } from '../../../web/src/lib/server/reclaim';
import { findingLines } from '../finding-lines';
import type { KindOnCommandLine } from './kind';

/** What a dump may inflate to. */
const MAX_INFLATED = { maxBytes: 64 * 1024 ** 3, setting: 'the longest dump this command reads' };
/** Part of the dump's length that columns of its index may take in memory while it is looked at. */
const HELD_SHARE = 0.3;

type Body = InspectedHeap & { warnings: Warning[] };

/** Reads a heap dump as a stream, with its index as files, as the server does. */
export const heap: KindOnCommandLine<HeapFormat, Body, InspectedHeap> = {
  async read({ path: file }, format, { top, scratch }) {
    const folder = scratch.folder();
    const dump = await inflateDump(file, path.join(folder, INFLATED), MAX_INFLATED);
    const source = scratch.keep(fileSource(dump));
    const columns = scratch.keep(new ColumnFiles(folder));
    const meta = buildHeapIndex(source, format, columns, {
      mostStrings: top === 0 ? Infinity : top,
      reclaim
    });
    columns.finish();
    columns.close();
    const access = sparingColumns(
      (name) => scratch.keep(fileSource(path.join(folder, name))),
      HELD_SHARE * source.length,
      reclaim
    );
    return { part: { warnings: meta.warnings, ...inspectHeap({ meta, source, ...access }, top) } };
  },
  inspect: ([body]) => body,
  *lines({ objects, shallowBytes, liveBytes, roots, classes, largest, findings }) {
    yield `  ${formatBytes(shallowBytes)} in ${plural(objects, 'object')}, ${formatBytes(liveBytes)} held from ${plural(roots, 'root')}`;
    yield '';
    yield '  retained   shallow   objects  class';
    for (const { name, count, shallowBytes: own, retainedBytes } of classes)
      yield `  ${formatBytes(retainedBytes).padStart(8)}  ${formatBytes(own).padStart(8)}  ${formatCount(count).padStart(8)}  ${name}`;
    yield '';
    yield '  largest objects';
    for (const { className, retainedBytes, path: steps } of largest)
      yield `  ${formatBytes(retainedBytes).padStart(8)}  ${className}  ← ${steps
        .slice(-4, -1)
        .map((step) => step.className)
        .reverse()
        .join(' ← ')}`;
    yield* findingLines(findings);
  }
};
