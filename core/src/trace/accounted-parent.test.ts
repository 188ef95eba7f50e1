import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anySpans } from '../testing/any-trace';
import { idOf, query, span, traceOf, type SpanShape } from '../testing/spans';
import { isEntry } from './endpoint';
import { SpanKind } from './span';
import { buildTree, type TraceTree } from './tree';

/** The definition taken word for word: all spans above in the same process, nearest first. */
function byDefinition({ nodes, reported, start, end }: TraceTree, node: number): number {
  const up = reported.parent[node];
  const overhangs = (above: number): boolean =>
    end[node] - end[above] > Math.min(1e6, (end[node] - start[node]) / 2);
  if (up < 0 || isEntry(nodes[node].span) || !sameProcess(up) || !overhangs(up)) return up;
  const above: number[] = [];
  for (let at = up; at >= 0 && sameProcess(at); at = reported.parent[at]) {
    above.push(at);
    // The walk stays within the request, and within what its process did of it.
    if (isEntry(nodes[at].span)) break;
  }
  const open = above.find((one) => end[one] >= end[node]);
  if (open !== undefined) return open;
  const latest = Math.max(...above.map((one) => end[one]));
  return above.find((one) => end[one] === latest)!;

  function sameProcess(one: number): boolean {
    return nodes[one].span.resource.key === nodes[node].span.resource.key;
  }
}

describe('the parent a span is accounted under', () => {
  it('is what the definition says, in any trace', () => {
    fc.assert(
      fc.property(anySpans, (shapes) => {
        const tree = buildTree(shapes.map(span));
        expect([...tree.parent]).toEqual(tree.nodes.map((_, node) => byDefinition(tree, node)));
      }),
      { numRuns: 2000 }
    );
  });

  it('takes as long for 20,000 spans that outlast 20,000 others as for any', { timeout: 5000 }, () => {
    const shapes: SpanShape[] = [{ id: 's0', from: 0, to: 1e6 }];
    for (let i = 1; i < 20_000; i++) shapes.push({ id: `s${i}`, parent: `s${i - 1}`, from: i, to: 9e5 - i });
    for (let i = 0; i < 20_000; i++)
      shapes.push({ id: `t${i}`, parent: 's19999', from: 5e4 + i, to: 9.5e5 + i });
    const tree = buildTree(shapes.map(span));
    expect(tree.children[tree.roots[0]]).toHaveLength(20_001);
  });

  const server = (to: number): SpanShape => ({ id: 'r', kind: SpanKind.SERVER, from: 0, to });
  it('lets work that was handed over count where the request waits for it', () => {
    const { requests } = traceOf([
      span(server(40)),
      span({ id: 'h', parent: 'r', name: 'hand over', from: 1, to: 1.2 }),
      ...[1, 2, 3, 4, 5, 6].map((i) =>
        query(`q${i}`, 'h', 1.1, 31 + i, 'SELECT due FROM port_call WHERE vessel = $1')
      )
    ]);
    expect(requests[0].ledger).toMatchObject({ database: 35.9e6, ownCode: 4.1e6, unseen: 0 });
  });

  it('tells what goes on after the answer beside the request, and counts it in no share', () => {
    const { requests } = traceOf([
      span(server(10)),
      query('q', 'r', 9, 190, 'SELECT 1 FROM tide'),
      query('p', 'r', 2, 4, 'SELECT 2 FROM tide')
    ]);
    expect(requests[0].afterNs).toBe(180e6);
    expect(requests[0].ledger).toMatchObject({ database: 3e6, ownCode: 7e6 });
  });

  it('keeps what another process did after the call was over where it was reported', () => {
    const there = { ...span(server(1)).resource, key: 'tides', service: 'tides' };
    const { tree, requests } = traceOf([
      span(server(100)),
      span({ id: 'c', parent: 'r', kind: SpanKind.CLIENT, from: 10, to: 20 }),
      span({ id: 's', parent: 'c', kind: SpanKind.SERVER, from: 11, to: 90, resource: there })
    ]);
    expect(
      tree.nodes[tree.parent[tree.nodes.findIndex(({ span: one }) => one.spanId === idOf('s'))]].span.name
    ).toBe('c');
    expect(requests[0].ledger).toMatchObject({ remote: 1e6, ownCode: 19e6, unseen: 80e6 });
  });
});
