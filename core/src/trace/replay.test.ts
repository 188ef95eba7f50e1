import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { span, type SpanShape } from '../testing/spans';
import { Replay } from './replay';
import { buildTree } from './tree';

const MS = 1e6;
const after = (shapes: SpanShape[], edits: Record<string, number>): number => {
  const tree = buildTree(shapes.map(span));
  const durations = new Map(
    Object.entries(edits).map(([name, ms]) => [
      tree.nodes.findIndex((node) => node.span.name === name),
      ms * MS
    ])
  );
  return new Replay(tree, tree.roots[0]).durationNs(durations) / MS;
};
const r: SpanShape = { id: 'r', from: 0, to: 100 };

describe('replay', () => {
  it('shortens the request by what a call on its path is shortened', () => {
    expect(
      after([r, { id: 'a', parent: 'r', from: 10, to: 60 }, { id: 'b', parent: 'r', from: 70, to: 90 }], {
        a: 5
      })
    ).toBe(55);
  });

  it('sees the parallel branch that becomes the longest', () => {
    const shapes = [
      r,
      { id: 'a', parent: 'r', from: 10, to: 90 },
      { id: 'b', parent: 'r', from: 10, to: 70 }
    ];
    expect(after(shapes, { a: 0 })).toBe(80);
    expect(after(shapes, { a: 70 })).toBe(90);
  });

  it('keeps gaps and order below the edit too', () => {
    const shapes = [
      r,
      { id: 'p', parent: 'r', from: 10, to: 90 },
      { id: 'a', parent: 'p', from: 20, to: 50 },
      { id: 'b', parent: 'p', from: 60, to: 80 }
    ];
    expect(after(shapes, { a: 10 })).toBe(80);
  });

  it('takes a start that overlaps the call before by a clock step as having waited for it', () => {
    const shapes = [
      r,
      { id: 'a', parent: 'r', from: 10, to: 50.6 },
      { id: 'b', parent: 'r', from: 50, to: 90 }
    ];
    expect(after(shapes, { a: 0.6 })).toBeCloseTo(60, 6);
  });

  it('bears a child that outlives its parent by a clock step', () => {
    const shapes = [
      r,
      { id: 'p', parent: 'r', from: 1, to: 100.4 },
      { id: 'a', parent: 'p', from: 10, to: 90 }
    ];
    expect(after(shapes, { a: 10 })).toBeCloseTo(30, 6);
  });

  it('lets a request wait for what ended inside a child that outlives it', () => {
    const shapes = [
      r,
      { id: 'handler', parent: 'r', from: 1, to: 140 },
      { id: 'route', parent: 'handler', from: 2, to: 130 },
      { id: 'a', parent: 'route', from: 10, to: 50 },
      { id: 'b', parent: 'route', from: 50, to: 90 },
      { id: 'late', parent: 'route', from: 105, to: 120 }
    ];
    expect(after(shapes, { a: 0, b: 10 })).toBe(30);
    expect(after(shapes, { late: 0 })).toBe(100);
  });

  it('changes nothing without an edit, whatever the tree', () => {
    const shape = fc.array(fc.record({ parent: fc.nat(20), from: fc.nat(500), length: fc.nat(300) }), {
      minLength: 1,
      maxLength: 20
    });
    fc.assert(
      fc.property(shape, (list) => {
        const shapes = list.map((one, i): SpanShape => ({
          id: `n${i}`,
          parent: i ? `n${one.parent % i}` : undefined,
          from: one.from,
          to: one.from + one.length
        }));
        expect(after(shapes, {})).toBe(list[0].length);
      })
    );
  });
});
