import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { requestParts } from '../calls/parts';
import { SpanKind } from '../trace/span';
import { anySpans } from '../testing/any-trace';
import { span, traceOf, type SpanShape } from '../testing/spans';
import { partKey } from './difference-ledger';
import { insideCall } from './inside-call';

describe('what a call is made of', () => {
  it('adds up to what is booked to it, in any trace', () => {
    fc.assert(
      fc.property(anySpans, (spans) => {
        const trace = traceOf(spans.map(span));
        for (const request of trace.requests)
          for (const part of requestParts(trace, request)) {
            const { totalNs, parts } = insideCall([{ trace, request }], partKey(part));
            expect(totalNs).toBe(part.bookedNs);
            expect(parts.reduce((sum, { bookedNs }) => sum + bookedNs, 0)).toBe(part.bookedNs);
          }
      }),
      { numRuns: 150 }
    );
  });
});

it('names what the called service did', () => {
  const [tides, berths] = ['tides', 'berths'].map((service) => ({
    service,
    host: 'quay-3',
    release: '7.2',
    pid: 1,
    key: service,
    attributes: new Map()
  }));
  const spans: SpanShape[] = [
    { id: 'root', from: 0, to: 100, kind: SpanKind.SERVER, name: 'POST /berth', resource: berths },
    {
      id: 'ask',
      parent: 'root',
      from: 10,
      to: 90,
      kind: SpanKind.CLIENT,
      resource: berths,
      attributes: { 'http.request.method': 'GET', 'url.full': 'http://tides/window' }
    },
    {
      id: 'entry',
      parent: 'ask',
      from: 20,
      to: 80,
      kind: SpanKind.SERVER,
      name: 'GET /window',
      resource: tides
    },
    {
      id: 'query',
      parent: 'entry',
      from: 30,
      to: 60,
      kind: SpanKind.CLIENT,
      resource: tides,
      attributes: { 'db.system.name': 'sqlite', 'db.query.text': 'select * from tide' }
    }
  ];
  const trace = traceOf(spans.map(span));
  const request = trace.requests.find(({ node }) => trace.tree.parent[node] < 0)!;
  const call = requestParts(trace, request).find(({ kind }) => kind === 'http')!;
  const { parts } = insideCall([{ trace, request }], partKey(call));
  expect(Object.fromEntries(parts.map(({ name, bookedNs }) => [name, bookedNs / 1e6]))).toEqual({
    'berths: GET tides/window': 20,
    'tides: GET /window': 30,
    'tides: select * from tide': 30
  });
});
