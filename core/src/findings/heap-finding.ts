import type { HeapDifference } from '../heap/heap-diff';
import type { HeapStore } from '../heap/heap-store';
import type { Conclusion } from './finding';

/** What a rule found in a heap dump, or in two. The cost is in bytes. */
export type FoundInHeap = Conclusion<{
  /** What shows it: one object, the objects of a class that an earlier dump did not have, or the strings that are there more than once. */
  shows: 'object' | 'new objects' | 'duplicate strings';
  className: string | null;
  object: number | null;
  path: string[];
}>;
export type HeapFinding<Name extends string = string> = FoundInHeap & { rule: Name };

/** What a rule may look at: a dump, and how it differs from an earlier one of the process, where there is one. */
export interface HeapContext {
  store: HeapStore;
  difference: HeapDifference | null;
}
