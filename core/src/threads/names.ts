import type { DumpSeries } from './model';

/** So many threads dumps are found by at most. */
const MOST = 2000;

/** Names of threads by which dumps are found, those of the program itself. */
export function namesInDumps({ dumps }: DumpSeries): string[] {
  const names = new Set<string>();
  for (const { threads } of dumps)
    for (const { name, system } of threads) {
      if (name !== '' && !system) names.add(name);
      if (names.size >= MOST) return [...names];
    }
  return [...names];
}
