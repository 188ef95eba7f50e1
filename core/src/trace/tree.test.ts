import { describe, expect, it } from 'vitest';
import { idOf, resource, span } from '../testing/spans';
import { SpanKind } from './span';
import { buildTree, isRequest } from './tree';

const codes = (tree: ReturnType<typeof buildTree>): Record<string, number> =>
  Object.fromEntries(tree.warnings.map(({ code, count }) => [code, count]));

describe('buildTree', () => {
  it('keeps the first of duplicate span ids and counts the others', () => {
    const tree = buildTree([
      span({ id: 'r', from: 0, to: 5 }),
      span({ id: 'r', name: 'again', from: 0, to: 9 })
    ]);
    expect(tree.nodes).toHaveLength(1);
    expect(tree.nodes[0].span.name).toBe('r');
    expect(codes(tree)).toEqual({ 'duplicate-span': 1 });
  });

  it('hangs orphans under one visible missing parent that spans them', () => {
    const tree = buildTree([
      span({ id: 'a', parent: 'gone', from: 2, to: 4 }),
      span({ id: 'b', parent: 'gone', from: 6, to: 9 })
    ]);
    const missing = tree.nodes.findIndex((node) => node.missing);
    expect(tree.nodes[missing].span.spanId).toBe(idOf('gone'));
    expect(tree.roots).toEqual([missing]);
    expect([tree.start[missing], tree.end[missing]]).toEqual([0, 7e6]);
    expect(isRequest(tree, missing)).toBe(true);
    expect(codes(tree)).toEqual({ 'missing-parent': 2 });
  });

  it('takes no missing parent for a request where only entry spans hang under it', () => {
    const tree = buildTree([span({ id: 'a', parent: 'gone', kind: SpanKind.SERVER, from: 0, to: 4 })]);
    expect(tree.nodes.map((_, node) => isRequest(tree, node))).toEqual([true, false]);
  });

  it('cuts parents in a circle', () => {
    const tree = buildTree([
      span({ id: 'a', parent: 'b', from: 1, to: 4 }),
      span({ id: 'b', parent: 'a', from: 0, to: 5 }),
      span({ id: 'c', parent: 'a', from: 2, to: 3 })
    ]);
    expect(tree.roots.map((node) => tree.nodes[node].span.name)).toEqual(['b']);
    expect(tree.order).toHaveLength(3);
    expect(codes(tree)).toEqual({ 'parent-cycle': 1 });
  });

  it('comes out alike whatever the order the spans came in', () => {
    const spans = [
      span({ id: 'r', from: 0, to: 9 }),
      span({ id: 'a', parent: 'r', from: 1, to: 3 }),
      span({ id: 'b', parent: 'a', from: 2, to: 3 })
    ];
    const shape = (list: typeof spans): string[] => {
      const tree = buildTree(list);
      return [...tree.order].map((node) => `${tree.nodes[node].span.name} ${tree.start[node]}`);
    };
    expect(shape(spans.toReversed())).toEqual(shape(spans));
  });
});

describe('clock skew', () => {
  const client = span({ id: 'c', kind: SpanKind.CLIENT, from: 0, to: 10 });
  const there = resource('tides', 'quay-3', 9);

  it('centres a subtree of another process that lies outside its caller', () => {
    const tree = buildTree([
      client,
      span({ id: 's', parent: 'c', kind: SpanKind.SERVER, from: 50, to: 56, resource: there }),
      span({ id: 'i', parent: 's', from: 51, to: 52, resource: there })
    ]);
    const at = (id: string): number => tree.nodes.findIndex((node) => node.span.spanId === idOf(id));
    expect([tree.start[at('s')], tree.end[at('s')]]).toEqual([2e6, 8e6]);
    expect([tree.start[at('i')], tree.end[at('i')]]).toEqual([3e6, 4e6]);
    expect(tree.shift[at('i')]).toBe(-48e6);
    expect(codes(tree)).toEqual({ 'clock-skew': 1 });
  });

  it('never shifts within one process, nor what lies inside', () => {
    const same = buildTree([client, span({ id: 's', parent: 'c', from: 50, to: 56 })]);
    expect([...same.shift]).toEqual([0, 0]);
    const inside = buildTree([client, span({ id: 's', parent: 'c', from: 1, to: 3, resource: there })]);
    expect([...inside.shift]).toEqual([0, 0]);
  });

  it('aligns a longer subtree only where it does not touch its caller', () => {
    const touching = buildTree([client, span({ id: 's', parent: 'c', from: 5, to: 30, resource: there })]);
    expect([...touching.shift]).toEqual([0, 0]);
    const apart = buildTree([client, span({ id: 's', parent: 'c', from: 40, to: 60, resource: there })]);
    expect(apart.start[1]).toBe(0);
  });
});
