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

/**
 * A profile of any kind in typed arrays. Nodes form the stack tree, parents before children; node 0 is the root.
 * Samples are sorted by time; weights are nanoseconds for CPU and wall profiles.
 */
export interface Profile {
  valueType: 'cpu' | 'wall' | 'allocation';
  unit: 'nanoseconds' | 'bytes' | 'count';
  frames: Frame[];
  nodeFrame: Int32Array;
  nodeParent: Int32Array;
  /** 1 where no node above runs the same function: its weight counts for the function's total. */
  nodeOutermost: Uint8Array;
  sampleNode: Int32Array;
  /** Nanoseconds from the start of the profile. */
  sampleTime: Float64Array;
  sampleWeight: Float64Array;
  durationNs: number;
}
