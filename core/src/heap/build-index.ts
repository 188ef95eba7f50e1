import type { Warning } from '../formats/evidence-error';
import { EvidenceError } from '../formats/evidence-error';
import type { ByteSource } from './byte-source';
import type { ColumnStore } from './column-store';
import { dominators } from './dominators';
import type { HeapClass } from './graph';
import type { HeapDump, HeapFormat } from './heap-index';
import type { HeapMeta } from './heap-store';
import { readHprof } from './hprof-read';
import type { ReadOptions } from './read-options';
import { dominatorTree, retainedByGroup, retainedSizes } from './retained';
import { shortestPaths } from './root-path';
import { readV8Snapshot } from './v8-snapshot';

export interface BuildOptions {
  weakKeep?: boolean;
  /** Most repeated strings listed. */
  mostStrings?: number;
  /** Told what is being done and the part that is done, 0 to 1; may throw to give up. */
  onprogress?: (doing: string, part: number) => void;
  /** Called where much memory has just become free: a place to give it back. */
  reclaim?: () => void;
}

/**
 * Reads a heap dump and works out who keeps what. Columns go to the store as soon as they are known and come back only for the step that
 * needs them, so that a dump takes less memory than it is long.
 * @throws EvidenceError as the readers.
 */
export function buildHeapIndex(
  source: ByteSource,
  format: HeapFormat,
  store: ColumnStore,
  options: BuildOptions = {}
): HeapMeta {
  const { weakKeep = false, mostStrings, reclaim = () => undefined } = options;
  const { dump, warnings } = read(source, format, store, {
    weakKeep,
    mostStrings,
    reclaim,
    onprogress: (part) => options.onprogress?.('reading', part)
  });
  if (dump.roots.length === 0)
    throw new EvidenceError(
      'no-roots',
      'Expected roots that hold the objects, but the dump names none: nothing can be said of what keeps what.'
    );
  const { count, classes } = dump;
  const references = dump.edgeTo.length + dump.weakReferences;
  for (const name of ['edgeStart', 'edgeTo', 'roots', 'rootKind'] as const) store.put(name, dump[name]);
  reclaim();
  options.onprogress?.('dominators', 0);
  const packages = packagesOf(classes);
  const kept = whoKeepsWhom(store, dump, packages, options);
  reclaim();
  options.onprogress?.('paths from roots', 0);
  pathsFromRoots(store, count);
  reclaim();
  referrers(store, count);
  reclaim();
  const figures = classFigures(store, classes);
  return {
    format,
    version: dump.version,
    capturedAtMs: dump.capturedAtMs,
    count,
    references,
    classes: classes.map((one, i) => ({ ...one, ...figures[i], retainedBytes: kept.byClass[i] })),
    packages: packages.map(({ name, own, members }, i) => {
      const ofMembers = members.map((member) => figures[member]);
      return {
        name,
        own,
        count: ofMembers.reduce((sum, one) => sum + one.count, 0),
        shallowBytes: ofMembers.reduce((sum, one) => sum + one.shallowBytes, 0),
        retainedBytes: kept.byPackage[i]
      };
    }),
    rootKinds: dump.rootKinds,
    rootRecords: dump.rootRecords,
    liveObjects: kept.objects,
    liveBytes: kept.bytes,
    shallowBytes: figures.reduce((sum, one) => sum + one.shallowBytes, 0),
    recordedBytes: dump.recordedBytes,
    unreachableObjects: count - kept.objects,
    duplicates: dump.duplicates,
    duplicateGroups: dump.duplicateGroups,
    duplicateBytes: dump.duplicateBytes,
    threads: dump.threads,
    layout: dump.layout,
    kinds: dump.kinds ?? null,
    weakKeep,
    warnings
  };
}

function read(
  source: ByteSource,
  format: HeapFormat,
  store: ColumnStore,
  options: ReadOptions
): { dump: HeapDump; warnings: Warning[] } {
  return (format === 'v8-heap-snapshot' ? readV8Snapshot : readHprof)(source, store, options);
}

interface Kept {
  /** Objects and bytes that are alive. */
  objects: number;
  bytes: number;
  byClass: Float64Array;
  byPackage: Float64Array;
}

/** Dominators and retained sizes of objects, classes and packages. The references of the dump are used up. */
function whoKeepsWhom(
  store: ColumnStore,
  dump: HeapDump,
  packages: readonly Package[],
  { onprogress, reclaim }: BuildOptions
): Kept {
  const { count } = dump;
  const found = dominators(dump, reclaim);
  reclaim?.();
  onprogress?.('dominators', 0.6);
  const objects = found.order.length;
  store.put('idom', found.idom);
  const retained = retainedSizes({ count, shallow: store.get('shallow') }, found);
  store.put('retained', retained);
  const tree = dominatorTree(count, found);
  store.put('childStart', tree.childStart);
  store.put('children', tree.children);
  found.order = new Uint32Array();
  found.idom = new Int32Array();
  reclaim?.();
  const packageOf = new Uint32Array(dump.classes.length);
  packages.forEach(({ members }, i) => members.forEach((member) => (packageOf[member] = i)));
  const groups = retainedByGroup(count, tree, retained, store.get('classOf'), packageOf, packages.length);
  return { objects, bytes: retained[count], ...groups };
}

interface Package {
  name: string;
  own: boolean;
  /** Numbers of its classes. */
  members: number[];
}

function packagesOf(classes: readonly HeapClass[]): Package[] {
  const numbers = new Map<string, number>();
  const packages: Package[] = [];
  classes.forEach(({ package: name, own }, i) => {
    let number = numbers.get(name);
    if (number === undefined) {
      numbers.set(name, (number = packages.length));
      packages.push({ name, own, members: [] });
    }
    packages[number].members.push(i);
  });
  return packages;
}

/** Objects and sizes of each class, alive or not: as the machine's own histogram counts them. */
function classFigures(
  store: ColumnStore,
  classes: readonly HeapClass[]
): { count: number; shallowBytes: number }[] {
  const classOf = store.get('classOf');
  const shallow = store.get('shallow');
  const figures = classes.map(() => ({ count: 0, shallowBytes: 0 }));
  for (let i = 0; i < classOf.length; i++) {
    const figure = figures[classOf[i]];
    figure.count++;
    figure.shallowBytes += shallow[i];
  }
  return figures;
}

function pathsFromRoots(store: ColumnStore, count: number): void {
  store.put(
    'before',
    shortestPaths({
      count,
      edgeStart: store.get('edgeStart'),
      edgeTo: store.get('edgeTo'),
      roots: store.get('roots')
    })
  );
}

/** Parts in which referrers are listed: the references are gone through once for each, and only so much of the list is in memory. */
const REFERRER_PARTS = 4;

/** Who refers to each object. */
function referrers(store: ColumnStore, count: number): void {
  const edgeStart = store.get('edgeStart');
  const edgeTo = store.get('edgeTo');
  // Each start moves to its end while the list is filled, and is then the start of the next.
  const start = new Uint32Array(count + 1);
  for (let i = 0; i < edgeTo.length; i++) start[edgeTo[i] + 1]++;
  for (let i = 1; i <= count; i++) start[i] += start[i - 1];
  store.put('referrerStart', start);
  const part = Math.ceil(count / REFERRER_PARTS);
  for (let low = 0; low < count; low += part) {
    const high = Math.min(count, low + part);
    const base = start[low];
    const list = new Uint32Array(start[high] - base);
    for (let from = 0; from < count; from++)
      for (let i = edgeStart[from]; i < edgeStart[from + 1]; i++) {
        const to = edgeTo[i];
        if (to >= low && to < high) list[start[to]++ - base] = from;
      }
    store.append('referrers', list);
  }
}
