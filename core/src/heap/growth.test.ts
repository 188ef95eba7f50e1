import { readFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { graphOf, graphs, reachedWithout, type MadeGraph } from '../testing/any-graph';
import { indexed } from '../testing/heap-store';
import { dominators } from './dominators';
import { grownBytes } from './grown-bytes';
import { compareHeaps } from './heap-diff';
import { heldColumns, type HeapStore } from './heap-store';
import { idMap } from './id-map';
import { dominatorTree } from './retained';

/** A graph with sizes and object ids, as much of a store as growth is counted from. */
interface Dump {
  made: MadeGraph;
  shallow: Uint32Array;
  ids: Float64Array;
  store: HeapStore;
}
function dumpOf(made: MadeGraph, sizes: readonly number[], numbers: readonly number[]): Dump {
  const found = dominators(graphOf(made));
  const shallow = Uint32Array.from(sizes.slice(0, made.count));
  const ids = Float64Array.from(numbers.slice(0, made.count));
  const columns: Record<string, unknown> = {
    idom: found.idom,
    shallow,
    ids,
    ...dominatorTree(made.count, found)
  };
  const store = { meta: { count: made.count }, ...heldColumns((name) => columns[name] as never) };
  return { made, shallow, ids, store: store as unknown as HeapStore };
}
const dumps = fc
  .tuple(
    graphs,
    fc.array(fc.integer({ min: 1, max: 1000 }), { minLength: 24, maxLength: 24 }),
    fc.shuffledSubarray([...Array(40).keys()], { minLength: 24, maxLength: 24 })
  )
  .map((parts) => dumpOf(...parts));

/** What an object keeps, itself too, by the definition; of the super-root all that is alive. */
function kept({ made }: Dump, object: number): Set<number> {
  const all = reachedWithout(made, -1);
  if (object === made.count) return all;
  const left = reachedWithout(made, object);
  return new Set([...all].filter((one) => !left.has(one)));
}

describe('what a heap grew by', () => {
  it('is what came into being within what an object keeps, less what is gone from what it kept', () => {
    fc.assert(
      fc.property(dumps, dumps, (before, after) => {
        const { grown, gone } = grownBytes(before.store, after.store, {
          before: idMap(before.ids),
          after: idMap(after.ids)
        });
        const alive = { before: kept(before, before.made.count), after: kept(after, after.made.count) };
        const was = new Map([...alive.before].map((one) => [before.ids[one], before.shallow[one]]));
        const lives = new Map([...alive.after].map((one) => [after.ids[one], one]));
        /** The nearest object that kept a lost one and is still there, by its number in the later dump. */
        const survivor = (object: number): number => {
          const keepers = [...alive.before].filter((one) => one !== object && kept(before, one).has(object));
          const there = keepers.filter((one) => lives.has(before.ids[one]));
          const nearest = there.find((one) => there.every((other) => kept(before, other).has(one)));
          return nearest === undefined ? after.made.count : lives.get(before.ids[nearest])!;
        };
        const lost = [...alive.before].filter((one) => !lives.has(before.ids[one]));
        for (const object of [...alive.after, after.made.count]) {
          const within = kept(after, object);
          let bytes = 0;
          for (const one of within) bytes += after.shallow[one] - (was.get(after.ids[one]) ?? 0);
          for (const one of lost) {
            const at = survivor(one);
            if (at === object || within.has(at)) bytes -= before.shallow[one];
          }
          expect(grown[object]).toBe(bytes);
        }
        for (const object of alive.before) if (lives.has(before.ids[object])) expect(gone[object]).toBe(0);
      }),
      { numRuns: 150 }
    );
  });
});

interface Told {
  id: number;
  name: string;
  size: number;
  to: number[];
}
/** A snapshot in V8's form; the first object is the root. */
function snapshot(objects: readonly Told[]): HeapStore {
  const strings = ['', ...new Set(objects.map(({ name }) => name))];
  const place = new Map(objects.map(({ id }, i) => [id, i * 5]));
  const text = JSON.stringify({
    snapshot: {
      meta: {
        node_fields: ['type', 'name', 'id', 'self_size', 'edge_count'],
        node_types: [['synthetic', 'object'], 'string', 'number', 'number', 'number'],
        edge_fields: ['type', 'name_or_index', 'to_node'],
        edge_types: [['element'], 'string_or_number', 'node']
      },
      node_count: objects.length,
      edge_count: objects.reduce((sum, { to }) => sum + to.length, 0)
    },
    nodes: objects.flatMap(({ id, name, size, to }, i) => [
      Number(i > 0),
      strings.indexOf(name),
      id,
      size,
      to.length
    ]),
    edges: objects.flatMap(({ to }) => to.flatMap((id, i) => [0, i, place.get(id)!])),
    strings
  });
  return indexed(new TextEncoder().encode(text));
}
const windows = (from: number, count: number): Told[] =>
  Array.from({ length: count }, (_, i) => ({ id: from + i * 2, name: 'Window', size: 1000, to: [] }));
const idsOf = (objects: readonly Told[]): number[] => objects.map(({ id }) => id);
const stepsOf = (before: HeapStore, after: HeapStore) =>
  compareHeaps(before, after).growthPath.map(({ className, before: was, after: is }) => [
    className,
    was.count,
    was.retainedBytes,
    is.count,
    is.retainedBytes
  ]);

describe('where a heap grew', () => {
  it('does not count what only came under another keeper', () => {
    // The table is held by two at first, and by the cache alone when the desk has let go.
    const table: Told = { id: 9, name: 'Table', size: 2_000_000, to: [] };
    const heap = (desk: number[], more: Told[]): HeapStore =>
      snapshot([
        { id: 1, name: '', size: 0, to: [3, 5] },
        { id: 3, name: 'Desk', size: 100, to: desk },
        { id: 5, name: 'Cache', size: 100, to: [9, ...idsOf(more)] },
        table,
        ...more
      ]);
    const [before, after] = [heap([9], windows(101, 200)), heap([], windows(101, 900))];
    const difference = compareHeaps(before, after);
    expect(difference.matchedBy).toBe('object id');
    expect(difference.liveBytes.after - difference.liveBytes.before).toBe(700_000);
    expect(stepsOf(before, after)).toEqual([
      ['root', 1, 2_200_200, 1, 2_900_200],
      ['Cache', 1, 2_200_100, 1, 2_900_100],
      ['Window', 200, 200_000, 900, 900_000]
    ]);
  });

  it('counts what is gone where it was: a cache that turned over grew by the difference', () => {
    const heap = (from: number, count: number): HeapStore => {
      const held = windows(from, count);
      const steady = Array.from({ length: 500 }, (_, i): Told => ({
        id: 100_001 + i * 2,
        name: 'Berth',
        size: 10,
        to: []
      }));
      return snapshot([
        { id: 1, name: '', size: 0, to: [3, 5] },
        { id: 3, name: 'Cache', size: 100, to: idsOf(held) },
        { id: 5, name: 'Plan', size: 100, to: idsOf(steady) },
        ...steady,
        ...held
      ]);
    };
    expect(stepsOf(heap(1001, 400), heap(5001, 500)).at(-1)).toEqual(['Window', 400, 400_000, 500, 500_000]);
  });

  it('takes dumps of two processes for what they are, though the numbers of their objects agree', () => {
    const recorded = (file: string): HeapStore =>
      indexed(new Uint8Array(gunzipSync(readFileSync(new URL(`../../../${file}`, import.meta.url)))));
    const one = recorded('workload/recordings/heap-tides-1.heapsnapshot.gz');
    const other = recorded('recordings/heap/chain.heapsnapshot.gz');
    const difference = compareHeaps(one, other);
    expect(difference.known).toBeGreaterThan(0.5);
    expect(difference.matchedBy).toBe('class');
  });
});
