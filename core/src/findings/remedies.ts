/**
 * What practitioners weigh before they make work faster, in their order: not to do it, to do it elsewhere, to do it once, to keep what it
 * gave, and only then to speed it up. Common practice.
 */
export const NOT_AT_ALL = 'Check whether the value is needed here at all.';
export const ELSEWHERE =
  'Move the work out of the request: to a background job, or to where the data changes.';
export const KEEP_ANSWERS = 'Cache the answer, if it may be a little old.';
export const INDEX = 'Add the index its condition needs; check the query plan before and after.';
