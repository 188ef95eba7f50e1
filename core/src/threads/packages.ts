import type { DumpThread, ThreadFrame } from './model';

/** A package and how many threads have a frame of it. */
export interface ThreadPackage {
  name: string;
  /** All its frames are of the runtime itself. */
  runtime: boolean;
  threads: number;
}

/**
 * The package a frame is of: as its reader reported it, else what stands before the class (Java: `a.b` of `a.b.Class.method`) or
 * before the function (Go: `net/http` of `net/http.(*conn).serve`); '' where the name has none.
 */
export function packageOf(frame: Pick<ThreadFrame, 'package' | 'name'>): string {
  if (frame.package) return frame.package;
  const path = frame.name.lastIndexOf('/', qualifierEnd(frame.name));
  if (path >= 0) {
    const dot = frame.name.indexOf('.', path);
    return dot < 0 ? '' : frame.name.slice(0, dot);
  }
  const parts = frame.name.split('.');
  const end = parts.findIndex((part, i) => i === parts.length - 1 || !/^[a-z_]/.test(part));
  return parts.slice(0, end).join('.');
}

/** Where a name's path must have ended: a receiver or a hidden class may hold a slash of its own. */
function qualifierEnd(name: string): number {
  const end = name.search(/[($]/);
  return end < 0 ? name.length : end;
}

/** The packages in some threads' stacks: those of the most threads first, the runtime's own last. */
export function packagesOf(
  frames: readonly ThreadFrame[],
  threads: readonly Pick<DumpThread, 'frames'>[]
): ThreadPackage[] {
  const names = frames.map(packageOf);
  const found = new Map<string, ThreadPackage>();
  for (const [stack, count] of threadsByStack(threads)) {
    const here = new Set<string>();
    for (const frame of stack) {
      const name = names[frame];
      if (name === '') continue;
      const known = found.get(name) ?? { name, runtime: true, threads: 0 };
      found.set(name, known);
      if (frames[frame].kind !== 'runtime') known.runtime = false;
      if (!here.has(name)) known.threads += count;
      here.add(name);
    }
  }
  return [...found.values()].sort(
    (a, b) => Number(a.runtime) - Number(b.runtime) || b.threads - a.threads || a.name.localeCompare(b.name)
  );
}

function threadsByStack(threads: readonly Pick<DumpThread, 'frames'>[]): Map<Int32Array, number> {
  const counts = new Map<Int32Array, number>();
  for (const { frames } of threads) counts.set(frames, (counts.get(frames) ?? 0) + 1);
  return counts;
}
