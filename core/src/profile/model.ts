/** Whose code a frame is. The last three are states of the engine, not functions. */
export const FRAME_KINDS = [
  'app',
  'dependency',
  'runtime',
  'native',
  'gc',
  'program',
  'idle',
  'root'
] as const;
export type FrameKind = (typeof FRAME_KINDS)[number];

/** One function: equal for all nodes of the stack tree that run it. */
export interface Frame {
  name: string;
  /** URL or path as recorded; '' where there is none. */
  file: string;
  /** 1-based; 0 where unknown. */
  line: number;
  column: number;
  /** Package of a dependency; '' for the rest. */
  package: string;
  kind: FrameKind;
}

/** Any set of stacks merged by their beginnings: parents before children; node 0 is the root. */
export interface StackTree {
  nodeFrame: Int32Array;
  nodeParent: Int32Array;
  /** 1 where no node above runs the same function: its weight counts for the function's total. */
  nodeOutermost: Uint8Array;
}

/** How often each line of a node's function was the one being run: ticks of node n lie at `start[n]` to `start[n + 1]`. */
export interface LineTicks {
  start: Int32Array;
  /** 1-based. */
  line: Int32Array;
  ticks: Float64Array;
}

/** What the weights of a profile are: `memory` is in use when it was recorded, `waiting` is time at locks and the like, `other` is what the file alone names. */
export const VALUE_TYPES = ['cpu', 'wall', 'allocation', 'memory', 'waiting', 'other'] as const;
export type ValueType = (typeof VALUE_TYPES)[number];

/** What samples say of themselves beside their stack, such as the request they served. */
export interface SampleLabel {
  key: string;
  values: string[];
  /** By sample: index into `values`; −1 where it has none. */
  sampleValue: Int32Array;
}

/**
 * A profile of any kind in typed arrays. Samples are sorted by time; weights are nanoseconds for CPU and wall profiles,
 * bytes for allocation, and a mere count where the format says no more.
 */
export interface Profile extends StackTree {
  valueType: ValueType;
  unit: 'nanoseconds' | 'bytes' | 'count';
  frames: Frame[];
  sampleNode: Int32Array;
  /** Nanoseconds from the start of the profile; all 0 where the format knows no times. */
  sampleTime: Float64Array;
  sampleWeight: Float64Array;
  /** Index into `threads`; null where there is one only. */
  sampleThread: Uint16Array | null;
  threads: string[];
  /** 0 where the format knows no times. */
  durationNs: number;
  ticks: LineTicks | null;
  /** How the file calls what is measured (`inuse_space`); absent where the format measures one thing only. */
  measure?: string;
  /** For how long it was recorded, nanoseconds, where samples have no times of their own and the file says so. */
  recordedNs?: number;
  labels?: SampleLabel[];
  /** How often each function was called while it was recorded, counted and not sampled, by frame; 0 for the engine’s own, which are not counted. */
  calls?: Float64Array;
  /** How many samples were recorded, where each here is a sum of many. */
  recordedSamples?: number;
}
