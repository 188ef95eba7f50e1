import { findBy } from './define-rule';
import type { FoundInHeap, HeapContext, HeapFinding } from './heap-finding';
import { HEAP_RULES, type HeapRule } from './heap-rules';

/** Everything the rules find in a heap dump, and against an earlier one; most bytes first. */
export const findInHeap = (context: HeapContext): HeapFinding<HeapRule>[] =>
  findBy<HeapRule, HeapContext, FoundInHeap>(HEAP_RULES, context).sort((a, b) => b.cost - a.cost);
