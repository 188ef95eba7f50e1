import type { StackFrame } from './stack-frame';

/** A part of a stack that repeats: `length` frames from `from` on, `times` times one after another. */
export interface Repeat {
  from: number;
  length: number;
  times: number;
}

/** A function that calls itself is no recursion worth folding before so many times. */
const LEAST_TIMES = 4;
/** Longest cycle of functions that call each other. */
const MAX_LENGTH = 40;

/** The parts of a stack that repeat, in order. Frames are alike by function, file and line. */
export function repeatsIn(frames: readonly StackFrame[]): Repeat[] {
  const keys = frames.map(({ function: name, file, line }) => `${name} ${file} ${line}`);
  const repeats: Repeat[] = [];
  for (let from = 0; from < keys.length;) {
    const repeat = longestFrom(keys, from);
    if (repeat) repeats.push(repeat);
    from += repeat ? repeat.length * repeat.times : 1;
  }
  return repeats;
}

function longestFrom(keys: readonly string[], from: number): Repeat | null {
  for (let length = 1; length <= MAX_LENGTH && from + length * LEAST_TIMES <= keys.length; length++) {
    if (keys[from] !== keys[from + length]) continue;
    let end = from + length;
    while (end < keys.length && keys[end] === keys[end - length]) end++;
    const times = Math.floor((end - from) / length);
    if (times >= LEAST_TIMES) return { from, length, times };
  }
  return null;
}
