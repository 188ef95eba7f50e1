import type { ThreadDump } from './model';

/** Threads whose stacks are alike. */
export interface StackGroup {
  state: string;
  /** Innermost first; as many as were asked for. */
  frames: Int32Array;
  threads: number[];
}

/**
 * Groups of equal stacks in equal states, largest first.
 * @param depth how many of the top frames must be equal; `Infinity` for all.
 */
export function stackGroups(
  { threads }: Pick<ThreadDump, 'threads'>,
  depth = Infinity,
  chosen: Iterable<number> = threads.keys()
): StackGroup[] {
  const groups = new Map<string, StackGroup>();
  for (const i of chosen) {
    const { frames, state, mode } = threads[i];
    const top = depth < frames.length ? frames.subarray(0, depth) : frames;
    const key = `${state || mode} ${top.join(' ')}`;
    const known = groups.get(key);
    if (known) known.threads.push(i);
    else groups.set(key, { state: state || mode, frames: top, threads: [i] });
  }
  return [...groups.values()].sort(
    (a, b) => b.threads.length - a.threads.length || a.threads[0] - b.threads[0]
  );
}
