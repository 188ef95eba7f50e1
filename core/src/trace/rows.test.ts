import { describe, expect, it } from 'vitest';
import { query, resource, span, traceOf } from '../testing/spans';
import { combKey, isMixed, timelineRows } from './rows';
import { SpanKind, type Span } from './span';
import { buildTree } from './tree';

const there = resource('tides', 'quay-3', 9);
const spans: Span[] = [
  span({ id: 'r', kind: SpanKind.SERVER, from: 0, to: 100 }),
  ...[1, 2, 3].map((i) => query(`q${i}`, 'r', i * 10, i * 10 + 5, `select * from manifest where id = ${i}`)),
  span({
    id: 'c',
    parent: 'r',
    kind: SpanKind.CLIENT,
    from: 50,
    to: 80,
    attributes: { 'http.request.method': 'GET', 'url.full': 'http://tides/x' }
  }),
  span({ id: 's', parent: 'c', kind: SpanKind.SERVER, from: 55, to: 75, resource: there }),
  query('last', 'r', 85, 90, 'select 2 from other')
];
const tree = buildTree(spans);
const open = { openCombs: new Set<string>(), closedSpans: new Set<string>() };
const names = (state = open): string[] =>
  timelineRows(tree, tree.roots[0], state).rows.map(({ kind, node, depth, members }) => {
    const { span: of } = tree.nodes[node];
    return kind === 'process'
      ? `# ${of.resource.service}`
      : `${depth} ${kind === 'comb' ? `${members.length}× ` : ''}${of.name}`;
  });

describe('timelineRows', () => {
  it('groups by process, indents by depth and folds like calls into a comb', () => {
    expect(names()).toEqual(['# berths', '0 r', '1 3× q1', '1 c', '1 last', '# tides', '2 s']);
  });

  it('shows single calls of an opened comb, and hides what is below a closed span', () => {
    const key = combKey(tree, tree.children[tree.roots[0]].slice(0, 3));
    expect(names({ ...open, openCombs: new Set([key]) })).toContain('1 q3');
    const client = spans[4].spanId;
    expect(names({ ...open, closedSpans: new Set([client]) })).not.toContain('2 s');
  });

  it('knows for every node the row it is drawn in or hidden behind', () => {
    const { rowOf } = timelineRows(tree, tree.roots[0], open);
    expect([...rowOf].every((row) => row >= 0)).toBe(true);
    expect(rowOf[1]).toBe(rowOf[3]);
  });

  it('keeps like calls of two processes under one parent apart, each comb under its own process', () => {
    const both = buildTree([
      span({ id: 'r', kind: SpanKind.SERVER, from: 0, to: 100 }),
      ...[0, 1, 2, 3].map((i) => ({
        ...query(`q${i}`, 'r', i * 10, i * 10 + 5, 'select 1'),
        resource: i % 2 === 0 ? resource() : there
      }))
    ]);
    const { rows } = timelineRows(both, both.roots[0], open);
    expect(rows.map(({ kind, members }) => (kind === 'comb' ? members.length : kind))).toEqual([
      'process',
      'span',
      2,
      'process',
      2
    ]);
    expect(new Set(rows.map(({ key }) => key)).size).toBe(5);
    const [first] = rows.filter(({ kind }) => kind === 'comb');
    const opened = timelineRows(both, both.roots[0], { ...open, openCombs: new Set([first.key]) }).rows;
    expect(opened.filter(({ kind }) => kind === 'comb').map(({ node }) => node)).not.toContain(first.node);
    expect(opened.filter(({ comb }) => comb === first.key).map(({ node }) => node)).toEqual(first.members);
  });
});

it('folds short spans of several names into one row, and leaves what takes time or failed by itself', () => {
  const middleware = (name: string, from: number, to: number, status = 0): Span =>
    span({ id: name, parent: 'r', name, from, to, status });
  const { tree } = traceOf([
    span({ id: 'r', kind: 2, from: 0, to: 100 }),
    middleware('query parser', 0, 0.02),
    middleware('session', 0.1, 0.15),
    middleware('json', 0.2, 0.21),
    middleware('auth', 0.3, 5),
    middleware('guard', 5.1, 5.11, 2)
  ]);
  const { rows } = timelineRows(tree, tree.roots[0], {
    openCombs: new Set(),
    closedSpans: new Set(),
    foldShort: true
  });
  const shown = rows.filter(({ kind }) => kind !== 'process');
  expect(shown.map(({ kind, members }) => `${kind} ${members.length}`)).toEqual([
    'span 0',
    'comb 3',
    'span 0',
    'span 0'
  ]);
  expect(isMixed(tree, shown[1].members)).toBe(true);
});
