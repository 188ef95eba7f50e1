import fc from 'fast-check';

/** A small graph of references, as lists of pairs: what definitions are counted from. */
export interface MadeGraph {
  count: number;
  edges: [number, number][];
  roots: number[];
}

/** Random graphs: loops, edges that come twice, objects nothing leads to; a root may be named twice. */
export const graphs = fc.integer({ min: 1, max: 24 }).chain((count) => {
  const node = fc.integer({ min: 0, max: count - 1 });
  return fc.record({
    count: fc.constant(count),
    edges: fc.array(fc.tuple(node, node), { maxLength: 60 }),
    roots: fc.array(node, { minLength: 1, maxLength: 4 })
  });
});

/** The same in flat arrays, as a heap is indexed. */
export function graphOf({ count, edges, roots }: MadeGraph) {
  const edgeStart = new Uint32Array(count + 1);
  for (const [from] of edges) edgeStart[from + 1]++;
  for (let i = 1; i <= count; i++) edgeStart[i] += edgeStart[i - 1];
  const next = edgeStart.slice();
  const edgeTo = new Uint32Array(edges.length);
  for (const [from, to] of edges) edgeTo[next[from]++] = to;
  return { count, edgeStart, edgeTo, roots: Uint32Array.from(new Set(roots)) };
}

/** What is reached with one object taken away: the definition of who keeps what. −1 takes none away. */
export function reachedWithout({ edges, roots }: MadeGraph, without: number): Set<number> {
  const seen = new Set<number>();
  const open = roots.filter((root) => root !== without);
  while (open.length > 0) {
    const at = open.pop()!;
    if (seen.has(at)) continue;
    seen.add(at);
    for (const [from, to] of edges) if (from === at && to !== without) open.push(to);
  }
  return seen;
}
