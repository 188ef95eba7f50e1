import { EvidenceError, Warnings, type Warning } from '../formats/evidence-error';
import type { ColumnStore } from './column-store';
import { ByteCursor, type ByteSource } from './byte-source';
import type { HeapDump, HeapThread } from './heap-index';
import { readHead, walkHprof } from './hprof-walk';
import { idMap } from './id-map';
import type { ReadOptions } from './read-options';
import { takeInventory, layoutOf, rootsOf } from './hprof-inventory';
import { ClassTable } from './hprof-classes';
import { ReferenceReader } from './hprof-references';

/**
 * Reads a heap dump of a JVM in two walks: who there is, then who refers to whom. Shallow sizes are as a 64-bit machine with
 * compressed references lays objects out.
 * @param store takes the columns that working out who keeps what does not need.
 * @throws EvidenceError `not-hprof`, `no-objects`.
 */
export function readHprof(
  source: ByteSource,
  store: ColumnStore,
  options: ReadOptions = {}
): { dump: HeapDump; warnings: Warning[] } {
  const warnings = new Warnings();
  const cursor = new ByteCursor(source);
  const head = readHead(cursor);
  const begin = cursor.position;
  const half = (from: number) => (position: number) =>
    options.onprogress?.(from + (0.5 * position) / source.length);
  const found = takeInventory(cursor, head.idSize, store, warnings, half(0));
  if (found.count === 0)
    throw new EvidenceError(
      'no-objects',
      'Expected a heap dump with objects, but it ends before the first one. Take the dump again.',
      cursor.position
    );
  const map = idMap(store.get('ids'));
  options.reclaim?.();
  if (map.duplicates > 0)
    warnings.add(
      'same-id-twice',
      'Objects share an object id with an earlier one; references lead to the first.',
      map.duplicates
    );
  const classes = new ClassTable(found, head.idSize, warnings);
  const reader = new ReferenceReader(found, map, classes, store, head.idSize, options);
  const again = new ByteCursor(source, begin);
  // What was cut off or damaged was said by the first walk.
  walkHprof(again, head.idSize, { ...reader.visitor(), progress: half(0.5) }, new Warnings());
  const dump = reader.finish(warnings);
  const { roots, rootKind, rootKinds, rootRecords } = rootsOf(found, map, warnings);
  return {
    dump: {
      ...dump,
      format: 'hprof',
      version: head.version,
      capturedAtMs: head.capturedAtMs,
      classes: classes.list,
      roots,
      rootKind,
      rootKinds,
      rootRecords,
      threads: [...found.threads.values()].map(({ thread, frames }): HeapThread => ({
        object: map.indexOf(thread),
        frames
      })),
      layout: layoutOf(found, head.idSize)
    },
    warnings: warnings.list()
  };
}
