import type { ThreadAcross } from '../threads/across';
import type { DumpSeries } from '../threads/model';
import type { Pool } from '../threads/pools';
import type { WaitsFor } from '../threads/waits-for';
import type { Conclusion } from './finding';

export interface ThreadEvidence {
  /** Index of the dump this is about, in the order of time. */
  dump: number;
  /** Names, the one to look at first. */
  threads: string[];
  lock: string | null;
  at: { function: string; file: string; line: number } | null;
}

/** What a rule found in one dump, or in several of one process. The cost is in threads it holds up. */
export interface FoundInThreads extends Conclusion<ThreadEvidence> {
  /** Index of the thread to show. */
  thread: number;
}
export type ThreadFinding<Name extends string = string> = FoundInThreads & { rule: Name };

/** What a rule may look at. */
export interface ThreadContext {
  series: DumpSeries;
  /** Of each dump. */
  waits: readonly WaitsFor[];
  pools: readonly Pool[][];
  across: readonly ThreadAcross[];
  /** The dump that is looked at. */
  dump: number;
}

/** Names kept as evidence. */
export const EVIDENCE_THREADS = 50;

export function placeEvidence(
  place: { name: string; file: string; line: number } | null
): ThreadEvidence['at'] {
  return place && { function: place.name, file: place.file, line: place.line };
}

/** How many threads the program itself has: what a finding's cost is measured against. */
export function programThreads({ series, dump }: ThreadContext): number {
  return series.dumps[dump].threads.filter(({ system }) => !system).length;
}
