import { alg, Graph } from '@dagrejs/graphlib';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { graphOf, graphs, type MadeGraph } from '../testing/any-graph';
import { heldColumns, type HeapStore } from './heap-store';
import { rootsHolding, shortestPaths, pathTo } from './root-path';

/** As much of a store as ways are found in. */
function storeOf(made: MadeGraph): HeapStore {
  const graph = graphOf(made);
  const back = graphOf({ ...made, edges: made.edges.map(([from, to]) => [to, from]) });
  const columns: Record<string, ArrayLike<number>> = {
    before: shortestPaths(graph),
    referrerStart: back.edgeStart,
    referrers: back.edgeTo,
    roots: graph.roots
  };
  return {
    meta: { count: made.count },
    ...heldColumns((name) => columns[name] as never)
  } as unknown as HeapStore;
}
/** Steps from one object to each, by graphlib's shortest paths; Infinity where there is none. */
function distances({ count, edges }: MadeGraph): (from: number, to: number) => number {
  const graph = new Graph();
  for (let i = 0; i < count; i++) graph.setNode(String(i));
  for (const [from, to] of edges) graph.setEdge(String(from), String(to));
  const known = new Map<number, Record<string, { distance: number }>>();
  return (from, to) => {
    if (!known.has(from)) known.set(from, alg.dijkstra(graph, String(from)));
    return known.get(from)![String(to)].distance;
  };
}

describe('paths from roots', () => {
  it('are as short as @dagrejs/graphlib finds them, each step a reference', () => {
    fc.assert(
      fc.property(graphs, (made) => {
        const distance = distances(made);
        const store = storeOf(made);
        for (let object = 0; object < made.count; object++) {
          const shortest = Math.min(...made.roots.map((root) => distance(root, object)));
          const { path, leftOut } = pathTo(store, object);
          expect(leftOut).toBe(0);
          if (shortest === Infinity) {
            expect(path).toEqual([]);
            continue;
          }
          expect(path.length - 1).toBe(shortest);
          expect(made.roots).toContain(path[0]);
          expect(path.at(-1)).toBe(object);
          for (let i = 1; i < path.length; i++)
            expect(made.edges.some(([from, to]) => from === path[i - 1] && to === path[i])).toBe(true);
        }
      }),
      { numRuns: 200 }
    );
  });
  it('begin at every root that reaches an object, the nearest first', () => {
    fc.assert(
      fc.property(graphs, (made) => {
        const distance = distances(made);
        const store = storeOf(made);
        for (let object = 0; object < made.count; object++) {
          const expected = [...new Set(made.roots)]
            .map((root) => ({ root, steps: distance(root, object) }))
            .filter(({ steps }) => steps < Infinity);
          const found = rootsHolding(store, object, 100);
          expect(new Map(found.map(({ root, steps }) => [root, steps]))).toEqual(
            new Map(expected.map(({ root, steps }) => [root, steps]))
          );
          expect(found.map(({ steps }) => steps)).toEqual(
            expected.map(({ steps }) => steps).sort((a, b) => a - b)
          );
          expect(rootsHolding(store, object, 1)).toEqual(found.slice(0, 1));
        }
      }),
      { numRuns: 200 }
    );
  });
  it('that are very long are recognised by their beginning and their end', () => {
    const count = 1000;
    const store = storeOf({
      count,
      edges: Array.from({ length: count - 1 }, (_, i): [number, number] => [i, i + 1]),
      roots: [0]
    });
    const { path, leftOut } = pathTo(store, count - 1);
    expect([path.length, leftOut, path[0], path.at(-1)]).toEqual([100, 900, 0, 999]);
    expect(pathTo(store, 99)).toMatchObject({ leftOut: 0 });
    expect(pathTo(store, 99).path).toHaveLength(100);
  });
});
