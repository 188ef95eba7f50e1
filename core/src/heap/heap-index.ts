import type { HeapClass, HeapGraph, RootKind } from './graph';

export const HEAP_FORMATS = ['hprof', 'v8-heap-snapshot'] as const;
export type HeapFormat = (typeof HEAP_FORMATS)[number];

/** Strings that are in the heap more than once. */
export interface DuplicateString {
  /** An object that holds it. */
  sample: number;
  count: number;
  /** Bytes of all copies but one. */
  wastedBytes: number;
}

export interface HeapThread {
  /** Object of the thread; −1 where it is not in the dump. */
  object: number;
  /** Innermost first. */
  frames: string[];
}

/** What is needed to read a single record of an HPROF dump again. */
export interface HprofLayout {
  idSize: number;
  classes: {
    id: number;
    name: string;
    superId: number;
    fields: { name: string; type: number }[];
    statics: { name: string; type: number; value: number }[];
  }[];
}

/** A dump as it was read, before anything is worked out. What is known of each object besides lies in the store (see `HeapColumns`). */
export interface HeapDump extends HeapGraph {
  format: HeapFormat;
  version: string;
  /** Epoch milliseconds; 0 where unknown. */
  capturedAtMs: number;
  classes: HeapClass[];
  /** The number of the kind of what holds each root. */
  rootKind: Uint8Array;
  rootKinds: RootKind[];
  /** How many references do not keep alive. */
  weakReferences: number;
  /** Sizes as the dump records them, summed. */
  recordedBytes: number;
  /** How many roots of each kind the dump names; an object may have several. */
  rootRecords: number[];
  /** Strings several times in the heap, most wasteful first, and how many such strings there are. */
  duplicates: DuplicateString[];
  duplicateGroups: number;
  duplicateBytes: number;
  threads: HeapThread[];
  /** HPROF only. */
  layout: HprofLayout | null;
  /** V8 only: kinds of nodes and of references by their number. */
  kinds?: { nodes: string[]; edges: string[] };
}
