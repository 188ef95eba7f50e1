import { describe, expect, it } from 'vitest';
import { findBelow } from '../findings/request-findings';
import { resource, span, traceOf } from '../testing/spans';
import { accountTrace, subtree } from './requests';
import { Replay } from './replay';
import { timelineRows } from './rows';
import { SpanKind, type Span } from './span';
import { buildTree } from './tree';

const NOTHING_FOLDED = { openCombs: new Set<string>(), closedSpans: new Set<string>() };
const SPANS = 50_000;
const name = (i: number): string => i.toString(36).padStart(4, '0');

/** Everything a page does with a trace, from spans to rows. */
function throughAll(spans: readonly Span[]): {
  durationNs: number;
  booked: number;
  rows: number;
  rules: string[];
} {
  const trace = accountTrace(buildTree(spans));
  const [request] = trace.requests;
  const booked = Object.values(request.ledger).reduce((sum, ns) => sum + ns, 0);
  expect(new Replay(trace.tree, request.node).durationNs(new Map())).toBe(request.durationNs);
  expect(subtree(trace.tree, request.node)).toHaveLength(spans.length);
  return {
    durationNs: request.durationNs,
    booked,
    rows: timelineRows(trace.tree, request.node, NOTHING_FOLDED).rows.length,
    rules: findBelow(trace, request).map(({ rule }) => rule)
  };
}

describe('50,000 spans in one trace', () => {
  it('side by side under one parent add up to the nanosecond, and fold into one comb', () => {
    const spans = [
      span({ id: 'root', kind: SpanKind.SERVER, from: 0, to: SPANS }),
      ...Array.from({ length: SPANS - 1 }, (_, i) =>
        span({
          id: name(i),
          parent: 'root',
          kind: SpanKind.CLIENT,
          from: i,
          to: i + 0.5,
          attributes: {
            'db.system.name': 'postgresql',
            'db.query.text': `select * from line where id = ${i}`
          }
        })
      )
    ];
    const { durationNs, booked, rows, rules } = throughAll(spans);
    expect(booked).toBe(durationNs);
    expect(rows).toBe(3);
    expect(rules).toContain('query-per-row');
  });

  it('one inside the other overflow no stack', () => {
    const spans = Array.from({ length: SPANS }, (_, i) =>
      span({
        id: name(i),
        parent: i === 0 ? undefined : name(i - 1),
        name: `step ${i}`,
        from: 0,
        to: 100 - i / 1000
      })
    );
    const { durationNs, booked } = throughAll(spans);
    expect(booked).toBe(durationNs);
  });
});

describe('clocks', () => {
  // The bound is the definition's: what was called lies within the call, so its true start is off by half the round trip at most.
  it.each([-37 * 60_000, 5 * 60_000, 86_400_000])(
    'that differ by %i ms are brought back within the round trip',
    (off) => {
      const there = resource('tides', 'quay-3', 9);
      const { tree, requests } = traceOf([
        span({ id: 'r', kind: SpanKind.SERVER, from: 0, to: 100 }),
        span({ id: 'c', parent: 'r', kind: SpanKind.CLIENT, from: 20, to: 80 }),
        span({ id: 's', parent: 'c', kind: SpanKind.SERVER, from: 24 + off, to: 70 + off, resource: there }),
        span({ id: 'i', parent: 's', from: 30 + off, to: 40 + off, resource: there })
      ]);
      const at = (label: string): number => tree.nodes.findIndex((node) => node.span.name === label);
      const roundTripNs = (60 - 46) * 1e6;
      expect(Math.abs(tree.start[at('s')] - tree.start[at('r')] - 24e6)).toBeLessThanOrEqual(roundTripNs / 2);
      expect(tree.start[at('i')] - tree.start[at('s')]).toBe(6e6);
      expect(tree.end[at('s')]).toBeLessThanOrEqual(tree.end[at('c')]);
      expect(requests[0].durationNs).toBe(100e6);
      expect(tree.warnings.map(({ code }) => code)).toContain('clock-skew');
    }
  );
});

describe('hosts of the same name', () => {
  it('are distinguished by their processes: each has its own heading', () => {
    const { tree, requests } = traceOf([
      span({ id: 'r', kind: SpanKind.SERVER, from: 0, to: 100, resource: resource('berths', 'quay', 1) }),
      span({
        id: 'c',
        parent: 'r',
        kind: SpanKind.CLIENT,
        from: 10,
        to: 90,
        resource: resource('berths', 'quay', 1)
      }),
      span({
        id: 's',
        parent: 'c',
        kind: SpanKind.SERVER,
        from: 20,
        to: 80,
        resource: resource('berths', 'quay', 2)
      })
    ]);
    const { rows } = timelineRows(tree, requests[0].node, NOTHING_FOLDED);
    expect(rows.map(({ kind }) => kind)).toEqual(['process', 'span', 'span', 'process', 'span']);
  });
});
