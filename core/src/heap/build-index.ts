import type { Warning } from '../formats/evidence-error';
import { EvidenceError } from '../formats/evidence-error';
import type { ByteSource } from './byte-source';
import { dominators } from './dominators';
import type { HeapDump, HeapFormat } from './heap-index';
import type { ColumnName, HeapColumns, HeapMeta } from './heap-store';
import { readHprof, type ReadOptions } from './hprof-read';
import { dominatorTree, retainedByGroup, retainedSizes } from './retained';
import { shortestWays } from './ways';
import { readV8Snapshot } from './v8-snapshot';

/** Takes a column; what was taken need not stay in memory here. */
export type ColumnSink = <K extends ColumnName>(name: K, column: HeapColumns[K]) => void;

export interface BuildOptions {
  weakKeep?: boolean;
  /** Told what is being done and the part that is done, 0 to 1; may throw to give up. */
  onprogress?: (doing: string, part: number) => void;
}

/**
 * Reads a heap dump and works out who keeps what. Columns go to the sink as soon as they are no longer needed.
 * @throws EvidenceError as the readers.
 */
export function buildHeapIndex(
  source: ByteSource,
  format: HeapFormat,
  sink: ColumnSink,
  options: BuildOptions = {}
): HeapMeta {
  const { weakKeep = false } = options;
  const reading: ReadOptions = {
    weakKeep,
    spill: sink as ReadOptions['spill'],
    onprogress: (part) => options.onprogress?.('reading', part)
  };
  const { dump, warnings } = read(source, format, reading, sink);
  if (dump.roots.length === 0)
    throw new EvidenceError(
      'no-roots',
      'Expected roots that hold the objects, but the dump names none: nothing can be said of what keeps what.'
    );
  options.onprogress?.('who keeps whom', 0);
  const found = dominators(dump);
  options.onprogress?.('who keeps whom', 0.6);
  const retained = retainedSizes(dump, found);
  const tree = dominatorTree(dump.count, found);
  const { count, classOf, classes } = dump;
  const classRetained = retainedByGroup(count, tree, retained, classOf, classes.length);
  const { packages, packageOf } = packagesOf(dump);
  const packageRetained = retainedByGroup(count, tree, retained, packageOf, packages.length);
  sink('idom', found.idom);
  sink('retained', retained);
  sink('childStart', tree.childStart);
  sink('children', tree.children);
  options.onprogress?.('ways from roots', 0);
  sink('before', shortestWays(dump));
  referrers(dump, sink);
  const figures = classFigures(dump);
  for (const name of [
    'classOf',
    'shallow',
    'kind',
    'edgeStart',
    'edgeTo',
    'weakFrom',
    'weakTo',
    'roots',
    'rootKind'
  ] as const)
    sink(name, dump[name]);
  return {
    format,
    version: dump.version,
    capturedAtMs: dump.capturedAtMs,
    count,
    references: dump.edgeTo.length + dump.weakTo.length,
    classes: classes.map((one, i) => ({ ...one, ...figures[i], retainedBytes: classRetained[i] })),
    packages: packages.map(({ name, own, members }, i) => {
      const ofMembers = members.map((member) => figures[member]);
      return {
        name,
        own,
        count: ofMembers.reduce((sum, one) => sum + one.count, 0),
        shallowBytes: ofMembers.reduce((sum, one) => sum + one.shallowBytes, 0),
        retainedBytes: packageRetained[i]
      };
    }),
    rootKinds: dump.rootKinds,
    rootRecords: dump.rootRecords,
    liveObjects: found.order.length,
    liveBytes: retained[count],
    shallowBytes: figures.reduce((sum, one) => sum + one.shallowBytes, 0),
    recordedBytes: dump.recordedBytes,
    unreachableObjects: count - found.order.length,
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
  options: ReadOptions,
  sink: ColumnSink
): { dump: HeapDump; warnings: Warning[] } {
  if (format === 'v8-heap-snapshot') {
    const { dump, textPosition, warnings } = readV8Snapshot(source, options);
    sink('textPosition', textPosition);
    sink('position', dump.position);
    return { dump, warnings };
  }
  const { dump, warnings } = readHprof(source, options);
  for (const name of ['edgeType', 'edgeName', 'nodeName'] as const) sink(name, dump[name]);
  sink('textPosition', new Float64Array());
  return { dump, warnings };
}

function packagesOf({ classes, classOf, count }: HeapDump): {
  packages: { name: string; own: boolean; members: number[] }[];
  packageOf: Uint32Array;
} {
  const numbers = new Map<string, number>();
  const packages: { name: string; own: boolean; members: number[] }[] = [];
  const ofClass = classes.map(({ package: name, own }, i) => {
    let number = numbers.get(name);
    if (number === undefined) {
      numbers.set(name, (number = packages.length));
      packages.push({ name, own, members: [] });
    }
    packages[number].members.push(i);
    return number;
  });
  const packageOf = new Uint32Array(count);
  for (let i = 0; i < count; i++) packageOf[i] = ofClass[classOf[i]];
  return { packages, packageOf };
}

/** Objects and sizes of each class, alive or not: as the machine's own histogram counts them. */
function classFigures({
  classes,
  classOf,
  shallow,
  count
}: HeapDump): { count: number; shallowBytes: number }[] {
  const figures = classes.map(() => ({ count: 0, shallowBytes: 0 }));
  for (let i = 0; i < count; i++) {
    const figure = figures[classOf[i]];
    figure.count++;
    figure.shallowBytes += shallow[i];
  }
  return figures;
}

/** Who refers to each object. */
function referrers({ count, edgeStart, edgeTo }: HeapDump, sink: ColumnSink): void {
  const referrerStart = new Uint32Array(count + 1);
  for (let i = 0; i < edgeTo.length; i++) referrerStart[edgeTo[i] + 1]++;
  for (let i = 1; i <= count; i++) referrerStart[i] += referrerStart[i - 1];
  const next = referrerStart.slice(0, count);
  const list = new Uint32Array(edgeTo.length);
  for (let from = 0; from < count; from++)
    for (let i = edgeStart[from]; i < edgeStart[from + 1]; i++) list[next[edgeTo[i]]++] = from;
  sink('referrerStart', referrerStart);
  sink('referrers', list);
}
