import type { Warning } from '../formats/evidence-error';
import type { ByteSource } from './byte-source';
import type { HeapClass, RootKind } from './graph';
import type { DuplicateString, HeapFormat, HeapThread, HprofLayout } from './heap-index';

/** Columns of an index, by object (or by reference) number. They are as good as files: each is loaded when it is first asked for. */
export interface HeapColumns {
  classOf: Uint32Array;
  /** Bytes. */
  shallow: Uint32Array;
  /** 0 an instance, 1 an array of objects, 2 an array of primitives, 3 a class. */
  kind: Uint8Array;
  /** Object ids of the objects in the dump. */
  ids: Float64Array;
  /** Where the record of each object lies in the dump; empty for V8. */
  position: Float64Array;
  edgeStart: Uint32Array;
  edgeTo: Uint32Array;
  /** References that do not keep alive. */
  weakFrom: Uint32Array;
  weakTo: Uint32Array;
  roots: Uint32Array;
  rootKind: Uint8Array;
  /** Names of V8's references beside `edgeTo`: the kind, and a text's number or an index. Empty for HPROF, whose records tell them. */
  edgeType: Uint8Array;
  edgeName: Uint32Array;
  /** V8: the number of the text that names each object. Empty for HPROF. */
  nodeName: Uint32Array;
  textPosition: Float64Array;
  idom: Int32Array;
  retained: Float64Array;
  childStart: Uint32Array;
  children: Uint32Array;
  /** The object before it on a shortest path from a root; −1 for roots, −2 for what no path leads to. */
  before: Int32Array;
  referrerStart: Uint32Array;
  referrers: Uint32Array;
}
export type ColumnName = keyof HeapColumns;

export const COLUMN_TYPES = {
  classOf: Uint32Array,
  shallow: Uint32Array,
  kind: Uint8Array,
  ids: Float64Array,
  position: Float64Array,
  edgeStart: Uint32Array,
  edgeTo: Uint32Array,
  weakFrom: Uint32Array,
  weakTo: Uint32Array,
  roots: Uint32Array,
  rootKind: Uint8Array,
  edgeType: Uint8Array,
  edgeName: Uint32Array,
  nodeName: Uint32Array,
  textPosition: Float64Array,
  idom: Int32Array,
  retained: Float64Array,
  childStart: Uint32Array,
  children: Uint32Array,
  before: Int32Array,
  referrerStart: Uint32Array,
  referrers: Uint32Array
} as const;

/** Figures of a class or a package. Bytes. */
export interface GroupFigures {
  count: number;
  shallowBytes: number;
  retainedBytes: number;
}

/** What an index tells beside its columns; plain data. */
export interface HeapMeta {
  format: HeapFormat;
  version: string;
  capturedAtMs: number;
  count: number;
  references: number;
  classes: (HeapClass & GroupFigures)[];
  packages: ({ name: string; own: boolean } & GroupFigures)[];
  rootKinds: RootKind[];
  rootRecords: number[];
  /** Objects that are alive, and their shallow sizes. */
  liveObjects: number;
  liveBytes: number;
  /** Of all objects, alive or not. */
  shallowBytes: number;
  recordedBytes: number;
  unreachableObjects: number;
  duplicates: DuplicateString[];
  duplicateGroups: number;
  duplicateBytes: number;
  threads: HeapThread[];
  layout: HprofLayout | null;
  kinds: { nodes: string[]; edges: string[] } | null;
  weakKeep: boolean;
  warnings: Warning[];
}

/** Whole columns are asked for where every object is looked at; single values and parts where a few are. */
export interface ColumnAccess {
  column: <K extends ColumnName>(name: K) => HeapColumns[K];
  at: (name: ColumnName, index: number) => number;
  /** Values from an index to before another. */
  range: <K extends ColumnName>(name: K, from: number, to: number) => HeapColumns[K];
}

/** An open index, with the dump it is of. */
export interface HeapStore extends ColumnAccess {
  meta: HeapMeta;
  source: ByteSource;
}

/** Columns that are held whole. */
export function heldColumns(column: ColumnAccess['column']): ColumnAccess {
  return {
    column,
    at: (name, index) => column(name)[index],
    range: (name, from, to) => column(name).subarray(from, to) as never
  };
}
