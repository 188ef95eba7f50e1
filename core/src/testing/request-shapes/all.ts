import { LOOPS } from './loops';
import { OTHER_SHAPES } from './other-shapes';
import { REPEATED_CALLS } from './repeated-calls';
import type { RequestShape } from './request';

/** At least 150 requests, each labelled by what must be said of it. Made; the recorded ones are in `recordings/traces`. */
export const REQUEST_SHAPES: readonly RequestShape[] = [...LOOPS, ...REPEATED_CALLS, ...OTHER_SHAPES];
