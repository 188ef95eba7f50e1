import type { CallKind } from '../calls/call';

/** Like calls reached by the same path of span names. Nanoseconds. */
export interface Loop {
  kind: CallKind;
  fingerprint: string;
  verb: string;
  /** By start. */
  nodes: number[];
  /** How many of them ran at once at the most; 1 where each waited for the one before. */
  atOnce: number;
  distinct: number | null;
  origin: string;
  totalNs: number;
  fastestNs: number;
  slowestNs: number;
  medianNs: number;
  /** The part of the critical path between these calls' starts and ends. */
  bookedNs: number;
}
