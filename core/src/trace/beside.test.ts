import { describe, expect, it } from 'vitest';
import { query, span, traceOf } from '../testing/spans';
import { align, worstOf } from './align';
import { Replay } from './replay';
import { heaviestSpans, timelineRows } from './rows';
import { SpanKind, type Span } from './span';

const root = (to: number): Span => span({ id: 'r', name: 'GET /plan', kind: SpanKind.SERVER, from: 0, to });

describe('align', () => {
  it('says what is extra, missing, slower, and what became many', () => {
    const slow = traceOf([
      root(500),
      ...Array.from({ length: 12 }, (_, i) =>
        query(`q${i}`, 'r', i * 20, i * 20 + 15, 'select 1 from line where id = 1')
      ),
      span({ id: 'w', parent: 'r', name: 'weigh', from: 300, to: 450 }),
      query('x', 'r', 460, 470, 'select 2 from extra')
    ]).tree;
    const normal = traceOf([
      root(100),
      query('q', 'r', 0, 15, 'select 1 from line where id = 1'),
      span({ id: 'w', parent: 'r', name: 'weigh', from: 20, to: 60 }),
      query('j', 'r', 70, 80, 'select 3 from joined')
    ]).tree;
    const rows = align({ before: { tree: normal, root: 0 }, after: { tree: slow, root: 0 } });
    const verdicts = rows.map(({ label, verdict, before, after }) => [
      label,
      verdict,
      after.nodes.length,
      before.nodes.length
    ]);
    expect(verdicts).toEqual([
      ['GET /plan', 'slower', 1, 1],
      ['select ? from line where id = ?', 'more', 12, 1],
      ['weigh', 'slower', 1, 1],
      ['select ? from extra', 'extra', 1, 0],
      ['select ? from joined', 'missing', 0, 1]
    ]);
    // The twelve queries took 165 ms more, weighing 110 ms; of the request’s 400 ms more, the rest is its own.
    expect(worstOf(rows)?.label).toBe('select ? from line where id = ?');
  });

  it('finds nothing to tell between a request and itself', () => {
    const { tree } = traceOf([
      root(100),
      query('q', 'r', 0, 15, 'select 1'),
      query('p', 'r', 20, 30, 'select 2 from t')
    ]);
    const same = { tree, root: 0 };
    const rows = align({ before: same, after: same });
    expect(rows.every(({ verdict }) => verdict === 'alike')).toBe(true);
    expect(worstOf(rows)).toBeNull();
  });
});

describe('Replay', () => {
  it('moves what came after a shortened call, and keeps the gaps', () => {
    const { tree } = traceOf([
      root(100),
      query('a', 'r', 10, 60, 'select 1 from a'),
      query('b', 'r', 70, 90, 'select 1 from b')
    ]);
    const node = (id: string): number =>
      tree.nodes.findIndex(({ span: one }) => one.call?.fingerprint.endsWith(id));
    const { durationNs, start, end } = new Replay(tree, 0).times(new Map([[node('a'), 5e6]]));
    expect(durationNs).toBe(55e6);
    expect([start.get(node('b')), end.get(node('b'))]).toEqual([25e6, 45e6]);
  });

  it('leaves everything where it was without an edit', () => {
    const { tree } = traceOf([root(100), query('a', 'r', 10, 60, 'select 1')]);
    const { start, end } = new Replay(tree, 0).times(new Map());
    expect([...start.values(), ...end.values()]).toEqual([0, 10e6, 100e6, 60e6]);
  });
});

describe('combs by fingerprint', () => {
  const { tree } = traceOf([
    root(200),
    ...[0, 1, 2].flatMap((i) => [
      span({ id: `p${i}`, parent: 'r', name: `part ${i}`, from: i * 60, to: i * 60 + 50 }),
      query(`q${i}`, `p${i}`, i * 60 + 5, i * 60 + 45, 'select 1 from t')
    ])
  ]);
  const rows = (combBy: 'parent' | 'fingerprint', open: string[] = []): string[] =>
    timelineRows(tree, 0, { openCombs: new Set(open), closedSpans: new Set(), combBy }).rows.map(
      ({ kind, members }) => `${kind}${members.length > 0 ? ` ${members.length}` : ''}`
    );
  it('gathers like calls of different parents into one row', () => {
    expect(rows('parent').filter((row) => row.startsWith('comb'))).toEqual([]);
    expect(rows('fingerprint').filter((row) => row.startsWith('comb'))).toEqual(['comb 3']);
    const { rows: combed, rowOf } = timelineRows(tree, 0, {
      openCombs: new Set(),
      closedSpans: new Set(),
      combBy: 'fingerprint'
    });
    expect(rowOf.every((row) => row >= 0)).toBe(true);
    const comb = combed.find(({ kind }) => kind === 'comb')!;
    expect(rows('fingerprint', [comb.key]).filter((row) => row.startsWith('span'))).toHaveLength(7);
  });
});

describe('heaviestSpans', () => {
  it('goes on while a child holds at least a third', () => {
    const { tree } = traceOf([
      root(90),
      span({ id: 'a', parent: 'r', from: 0, to: 60 }),
      span({ id: 'b', parent: 'a', from: 0, to: 20 }),
      span({ id: 'c', parent: 'b', from: 0, to: 5 })
    ]);
    const weight = (node: number): number => tree.end[node] - tree.start[node];
    expect(heaviestSpans(tree, 0, weight).map((node) => tree.nodes[node].span.name)).toEqual([
      'GET /plan',
      'a',
      'b'
    ]);
  });
});
