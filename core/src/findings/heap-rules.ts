import { duplicateStrings } from './duplicate-strings';
import { growsBetweenDumps } from './grows-between-dumps';
import { longChain } from './long-chain';
import { oneHolder } from './one-holder';

/** Every rule about heap dumps, in the order they are listed. */
export const HEAP_RULES = [oneHolder, longChain, growsBetweenDumps, duplicateStrings] as const;
export type HeapRule = (typeof HEAP_RULES)[number]['rule'];
