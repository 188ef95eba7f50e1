import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { SpanKind, StatusCode, type Span } from '../trace/span';
import { query, resource, span, traceOf } from '../testing/spans';
import { requestParts } from './parts';
import { retryChains } from './retries';
import { roundLimitOf } from './round-limit';

const root = (to = 100): Span => span({ id: 'r', kind: SpanKind.SERVER, from: 0, to });
const http = (id: string, from: number, to: number, failed = false, more: object = {}): Span =>
  span({
    id,
    parent: 'r',
    kind: SpanKind.CLIENT,
    from,
    to,
    status: failed ? StatusCode.ERROR : 0,
    attributes: { 'http.request.method': 'GET', 'url.full': 'http://tides/window?station=1', ...more }
  });

describe('requestParts', () => {
  it('takes like calls together and gives the rest of the time to own spans', () => {
    const trace = traceOf([
      root(),
      query('a', 'r', 10, 30, 'select 1 from t where a = 1'),
      query('b', 'r', 40, 50, 'select 1 from t where a = 2'),
      span({ id: 'w', parent: 'r', name: 'weigh', from: 60, to: 90 })
    ]);
    expect(
      requestParts(trace, trace.requests[0]).map(({ kind, name, count, totalNs, bookedNs }) => [
        kind,
        name,
        count,
        totalNs / 1e6,
        bookedNs / 1e6
      ])
    ).toEqual([
      ['ownCode', 'r', 1, 100, 40],
      ['database', 'select ? from t where a = ?', 2, 30, 30],
      ['ownCode', 'weigh', 1, 30, 30]
    ]);
  });

  it('books what the called service did to the call that asked it', () => {
    const tides = resource('tides', 'quay-3', 9);
    const trace = traceOf([
      root(),
      http('c', 10, 80),
      span({ id: 's', parent: 'c', kind: SpanKind.SERVER, from: 20, to: 70, resource: tides })
    ]);
    const [call, own] = requestParts(trace, trace.requests[0]);
    expect([call.kind, call.bookedNs, own.bookedNs]).toEqual(['http', 70e6, 30e6]);
    // The inner request is parts of its own.
    expect(requestParts(trace, trace.requests[1]).map(({ bookedNs }) => bookedNs)).toEqual([50e6]);
  });

  it('always adds up to the request', () => {
    const shape = fc.record({
      parent: fc.nat({ max: 20 }),
      from: fc.nat({ max: 90 }),
      length: fc.nat({ max: 40 }),
      kind: fc.constantFrom(SpanKind.INTERNAL, SpanKind.CLIENT, SpanKind.SERVER)
    });
    fc.assert(
      fc.property(fc.array(shape, { maxLength: 20 }), (shapes) => {
        const spans = shapes.map(({ parent, from, length, kind }, i) =>
          span({
            id: `s${i}`,
            parent: i === 0 || parent >= i ? 'r' : `s${parent}`,
            kind,
            from,
            to: from + length,
            attributes:
              kind === SpanKind.CLIENT ? { 'db.system.name': 'sqlite', 'db.query.text': 'select 1' } : {}
          })
        );
        const trace = traceOf([root(), ...spans]);
        for (const request of trace.requests)
          expect(requestParts(trace, request).reduce((sum, { bookedNs }) => sum + bookedNs, 0)).toBe(
            request.durationNs
          );
      })
    );
  });

  it('counts rows, bytes, failures, retries and round limits', () => {
    const trace = traceOf([
      root(5000),
      http('a', 0, 1010, true),
      http('b', 1100, 1200, true),
      http('c', 1300, 1400, false, { 'http.response.body.size': 500 }),
      span({
        id: 'f',
        parent: 'r',
        from: 2000,
        to: 2010,
        name: 'write',
        attributes: { 'file.path': '/plan/1.csv', 'file.operation': 'write', 'file.size': 70 }
      })
    ]);
    const [, call, file] = requestParts(trace, trace.requests[0]);
    expect(call).toMatchObject({ count: 3, failed: 2, retried: 2, onRound: 1, bytesRead: 500 });
    expect(file).toMatchObject({ kind: 'file', bytesWritten: 70, bytesRead: 0 });
  });
});

describe('retryChains', () => {
  const chains = (...spans: Span[]): [number, boolean][] => {
    const { tree } = traceOf([root(5000), ...spans]);
    const nodes = tree.nodes.flatMap(({ span: one }, i) => (one.call ? [i] : []));
    return retryChains(tree, nodes).map(({ nodes: chain, gaveUp }) => [chain.length, gaveUp]);
  };
  it('needs a failure before each further attempt, or a call that says it is a resend', () => {
    expect(chains(http('a', 0, 10), http('b', 20, 30))).toEqual([]);
    expect(chains(http('a', 0, 10, true), http('b', 20, 30))).toEqual([[2, false]]);
    expect(chains(http('a', 0, 10, true), http('b', 20, 30, true))).toEqual([[2, true]]);
    expect(chains(http('a', 0, 10), http('b', 20, 30, false, { 'http.request.resend_count': 1 }))).toEqual([
      [2, false]
    ]);
  });

  it('is not made by calls that run beside each other, nor by calls whose values are not known', () => {
    expect(chains(http('a', 0, 100, true), http('b', 50, 120, true))).toEqual([]);
    const publish = (id: string, from: number): Span =>
      span({
        id,
        parent: 'r',
        kind: SpanKind.PRODUCER,
        from,
        to: from + 10,
        status: StatusCode.ERROR,
        attributes: { 'messaging.system': 'bell', 'messaging.destination.name': 'arrivals' }
      });
    expect(chains(publish('a', 0), publish('b', 20))).toEqual([]);
  });
});

// Common practice: limits are set in round seconds. The bounds are the definition's own 3 %.
describe('roundLimitOf', () => {
  it.each([
    [1e9, 1e9],
    [1.03e9, 1e9],
    [1.031e9, null],
    [0.999e9, null],
    [30.2e9, 30e9],
    [61.9e9, null]
  ])('%d ns is %s', (duration, limit) => expect(roundLimitOf(duration)).toBe(limit));
});
