import { duplicateStrings } from './duplicate-strings';
import { growsBetweenDumps } from './grows-between-dumps';
import type { HeapContext, HeapFinding } from './heap-finding';
import { longChain, oneHolder } from './one-holder';

/** Everything the rules find in a heap dump, and against an earlier one; most bytes first. */
export function findInHeap(context: HeapContext): HeapFinding[] {
  return [oneHolder, longChain, growsBetweenDumps, duplicateStrings]
    .flatMap((rule) => rule(context))
    .sort((a, b) => b.cost - a.cost);
}
