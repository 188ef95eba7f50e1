import type { ThreadDump } from './model';
import { StackList } from './stack-list';

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
  const stacks = new StackList();
  const byState = new Map<string, Map<Int32Array, StackGroup>>();
  for (const i of chosen) {
    const { frames, mode } = threads[i];
    const state = threads[i].state || mode;
    const top = stacks.of(depth < frames.length ? frames.subarray(0, depth) : frames);
    let groups = byState.get(state);
    if (!groups) byState.set(state, (groups = new Map()));
    const known = groups.get(top);
    if (known) known.threads.push(i);
    else groups.set(top, { state, frames: top, threads: [i] });
  }
  return [...byState.values()]
    .flatMap((groups) => [...groups.values()])
    .sort((a, b) => b.threads.length - a.threads.length || a.threads[0] - b.threads[0]);
}
