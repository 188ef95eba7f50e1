import type { TraceTree } from '../trace/tree';

/** The origin most of these calls name; '' where none does. */
export function commonOrigin(tree: TraceTree, nodes: readonly number[]): string {
  const counts = new Map<string, number>();
  for (const node of nodes) {
    const origin = tree.nodes[node].call?.origin ?? '';
    if (origin) counts.set(origin, (counts.get(origin) ?? 0) + 1);
  }
  let best = '';
  for (const [origin, count] of counts) if (count > (counts.get(best) ?? 0)) best = origin;
  return best;
}
