import { readFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { findInHeap } from '../findings/heap-findings';
import { inspectHeap } from '../inspect/heap';
import { indexed } from '../testing/heap-store';
import { addedObjects, compareHeaps } from './heap-diff';
import type { HeapStore } from './heap-store';
import { objectFacts } from './object-facts';

/** Snapshots of `workload/heap/tides-cache.mjs` by V8 itself, with 1,110 and 6,204 windows in a cache. */
const recorded = (i: number): Uint8Array =>
  new Uint8Array(
    gunzipSync(
      readFileSync(new URL(`../../../workload/recordings/heap-tides-${i}.heapsnapshot.gz`, import.meta.url))
    )
  );
let before: HeapStore;
let after: HeapStore;
beforeAll(() => {
  before = indexed(recorded(1));
  after = indexed(recorded(2));
});
const classOf = (store: HeapStore, name: string) => store.meta.classes.find((one) => one.name === name)!;

describe('a heap snapshot of V8', () => {
  it('has the nodes, references and sizes that JSON.parse finds in it', () => {
    const json = JSON.parse(new TextDecoder().decode(recorded(2))) as {
      snapshot: { node_count: number; meta: { node_fields: string[] } };
      nodes: number[];
      edges: number[];
    };
    const { node_fields: fields } = json.snapshot.meta;
    let bytes = 0;
    for (let i = fields.indexOf('self_size'); i < json.nodes.length; i += fields.length)
      bytes += json.nodes[i];
    expect(after.meta.count).toBe(json.snapshot.node_count);
    expect(after.meta.shallowBytes).toBe(bytes);
    expect(after.meta.references).toBeLessThanOrEqual(json.edges.length / 3);
    expect(after.meta.warnings).toEqual([]);
  });

  it('holds the windows that were planted, below the cache', () => {
    expect(classOf(before, 'TideWindow').count).toBe(1110);
    expect(classOf(after, 'TideWindow')).toMatchObject({ count: 6204, own: true });
    const [holder] = findInHeap({ store: after, difference: null });
    expect(holder.rule).toBe('one-holder');
    expect(holder.sentence).toMatch(/^TideCache\.windows keeps \d+\s% of the heap.*6\s204 × TideWindow/);
    const window = objectFacts(
      after,
      after.column('classOf').indexOf(after.meta.classes.indexOf(classOf(after, 'TideWindow')))
    );
    expect(window.slots.map(({ name }) => name)).toEqual(expect.arrayContaining(['station', 'heights']));
  });

  it('against an earlier one tells the objects that were added by their object id', () => {
    const difference = compareHeaps(before, after);
    expect(difference.matchedBy).toBe('object id');
    expect(difference.classes.find(({ name }) => name === 'TideWindow')).toMatchObject({
      before: { count: 1110 },
      after: { count: 6204 }
    });
    expect(addedObjects(before, after, 'TideWindow')).toHaveLength(6204 - 1110);
    expect(difference.growthPath.map(({ className }) => className)).toEqual(
      expect.arrayContaining(['TideCache', 'Map', 'TideWindow'])
    );
    const grows = findInHeap({ store: after, difference }).find(
      ({ rule }) => rule === 'grows-between-dumps'
    )!;
    expect(grows.figures.added).toBe(5094);
    expect(compareHeaps(after, after).classes).toEqual([]);
  });
});

const small = (change: (snapshot: Record<string, unknown>) => void = () => undefined): Uint8Array => {
  const snapshot = {
    snapshot: {
      meta: {
        node_fields: ['type', 'name', 'id', 'self_size', 'edge_count', 'trace_node_id'],
        node_types: [['synthetic', 'object', 'string'], 'string', 'number', 'number', 'number', 'number'],
        edge_fields: ['type', 'name_or_index', 'to_node'],
        edge_types: [['property', 'weak', 'element'], 'string_or_number', 'node']
      },
      node_count: 3,
      edge_count: 3
    },
    nodes: [0, 0, 1, 0, 1, 0, 1, 1, 3, 24, 2, 0, 2, 2, 5, 40, 0, 0],
    edges: [2, 1, 6, 0, 3, 12, 1, 0, 0],
    strings: ['', 'Pier', 'a "quoted" \\ text ⚓', 'label', '__proto__']
  };
  change(snapshot as never);
  return new TextEncoder().encode(JSON.stringify(snapshot));
};

describe('the format of a snapshot', () => {
  it('is taken from its own meta: fields in any number, texts with escapes', () => {
    const store = indexed(small());
    expect(store.meta.classes.map(({ name, count }) => [name, count])).toEqual([
      ['(synthetic)', 1],
      ['Pier', 1],
      ['(string)', 1]
    ]);
    expect(objectFacts(store, 2).text).toBe('a "quoted" \\ text ⚓');
    expect(store.column('retained')[1]).toBe(64);
    expect(objectFacts(store, 1).slots.map(({ name, weak }) => [name, weak])).toEqual([
      ['label', false],
      ['(weak)', true]
    ]);
  });

  it('with wrong counts or references is read, and that is said', () => {
    const wrong = indexed(small((s) => ((s.snapshot as { node_count: number }).node_count = 9)));
    expect(wrong.meta.warnings).toMatchObject([{ code: 'wrong-count' }]);
    const dangling = indexed(small((s) => (s.edges = [2, 1, 6, 0, 3, 999, 1, 0, 7])));
    expect(dangling.meta.warnings).toMatchObject([{ code: 'dangling', count: 2 }]);
    expect(() => indexed(small((s) => ((s.snapshot as { meta: object }).meta = {})))).toThrow(/meta|head/);
  });

  it('with a key that is no JSON text is one worded error', () => {
    const text = new TextDecoder().decode(small()).replace('"nodes"', '"no\\es"');
    expect(() => indexed(new TextEncoder().encode(text))).toThrow(/does not parse/);
  });

  it('cut off anywhere, or damaged, is one worded error', () => {
    const bytes = small();
    fc.assert(
      fc.property(fc.integer({ min: 20, max: bytes.length - 2 }), (length) => {
        try {
          inspectHeap(indexed(bytes.slice(0, length)), 5);
        } catch (cause) {
          expect(cause).toHaveProperty('code');
        }
      }),
      { numRuns: 300 }
    );
    fc.assert(
      fc.property(fc.nat(bytes.length - 1), fc.integer({ min: 32, max: 126 }), (at, value) => {
        const damaged = bytes.slice();
        damaged[at] = value;
        try {
          inspectHeap(indexed(damaged), 5);
        } catch (cause) {
          expect(cause).toHaveProperty('code');
        }
      }),
      { numRuns: 500 }
    );
  });
});
