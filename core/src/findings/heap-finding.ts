import type { HeapDifference } from '../heap/heap-diff';
import type { HeapStore } from '../heap/heap-store';
import type { Severity } from './finding';

export type HeapRule = 'one-holder' | 'long-chain' | 'grows-between-dumps' | 'duplicate-strings';

/** A conclusion a rule reached about a heap dump, or about two. */
export interface HeapFinding {
  rule: HeapRule;
  title: string;
  severity: Severity;
  sentence: string;
  remedy: string;
  figures: Record<string, number | string | null>;
  evidence: { className: string | null; object: number | null; path: string[] };
  /** Bytes this is about. */
  cost: number;
}

/** What a rule may look at: a dump, and how it differs from an earlier one of the process, where there is one. */
export interface HeapContext {
  store: HeapStore;
  difference: HeapDifference | null;
}
