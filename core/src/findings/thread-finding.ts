import type { ThreadAcross } from '../threads/across';
import type { DumpSeries } from '../threads/model';
import type { Pool } from '../threads/pools';
import type { WaitsFor } from '../threads/waits-for';
import type { Severity } from './finding';

export type ThreadRule = 'lock-queue' | 'deadlock' | 'stuck-across-dumps' | 'pool-exhausted';

/** A conclusion a rule reached about one dump, or about several of one process. */
export interface ThreadFinding {
  rule: ThreadRule;
  title: string;
  severity: Severity;
  sentence: string;
  remedy: string;
  figures: Record<string, number | string | null>;
  evidence: {
    /** Index of the dump this is about, in the order of time. */
    dump: number;
    /** Names, the one to look at first. */
    threads: string[];
    lock: string | null;
    at: { function: string; file: string; line: number } | null;
  };
  /** Threads it holds up. */
  cost: number;
  /** Index of the thread to show. */
  thread: number;
}

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
): ThreadFinding['evidence']['at'] {
  return place && { function: place.name, file: place.file, line: place.line };
}

/** How many threads the program itself has: what a finding's cost is measured against. */
export function programThreads({ series, dump }: ThreadContext): number {
  return series.dumps[dump].threads.filter(({ system }) => !system).length;
}
