import type { HeapGraph } from './graph';

export type HeapFormat = 'hprof' | 'v8-heap-snapshot';

/** Texts that are in the heap more than once. */
export interface DuplicateText {
  /** An object that holds it. */
  sample: number;
  /** Its text where it is known already; else it is read from the sample. */
  value: string | null;
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

/** A dump as it was read, before anything is worked out. Columns are by object number. */
export interface HeapDump extends HeapGraph {
  format: HeapFormat;
  version: string;
  /** Epoch milliseconds; 0 where unknown. */
  capturedAtMs: number;
  /** Identities of the objects, where they were not handed on. */
  ids: Float64Array;
  /** Where the record of each object lies in the dump; empty where that is of no use. */
  position: Float64Array;
  /** 0 an instance, 1 an array of objects, 2 an array of primitives, 3 a class. */
  kind: Uint8Array;
  /** References that do not keep alive. */
  weakFrom: Uint32Array;
  weakTo: Uint32Array;
  /** Sizes as the dump records them, summed. */
  recordedBytes: number;
  /** How many roots of each kind the dump names; an object may have several. */
  rootRecords: number[];
  /** Texts several times in the heap, most wasteful first, and how many such texts there are. */
  duplicates: DuplicateText[];
  duplicateGroups: number;
  duplicateBytes: number;
  threads: HeapThread[];
  /** Names of V8's references beside `edgeTo`: the kind, and a text's number or an index. Empty for HPROF, whose records tell them. */
  edgeType: Uint8Array;
  edgeName: Uint32Array;
  /** V8: the number of the text that names each object. Empty for HPROF. */
  nodeName: Uint32Array;
  /** HPROF only. */
  layout: HprofLayout | null;
  /** V8 only: kinds of nodes and of references by their number. */
  kinds?: { nodes: string[]; edges: string[] };
}

/** Hands a column on that reading needs no longer, so that it need not stay in memory. */
export type Spill = (name: string, column: Float64Array | Uint32Array | Uint8Array) => void;
