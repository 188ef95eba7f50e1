import { describe, expect, it } from 'vitest';
import { span, traceOf } from '../testing/spans';
import { SpanKind, type Span, type SpanEvent } from '../trace/span';
import { outgoingSums } from './outgoing';
import { callPhases, type CallPhases } from './phases';

const event = (name: string, ms: number): SpanEvent => ({ name, offsetNs: ms * 1e6, attributes: new Map() });
const call = (events: SpanEvent[], more: Partial<Parameters<typeof span>[0]> = {}): Span => ({
  ...span({
    id: 'c',
    parent: 'r',
    kind: SpanKind.CLIENT,
    from: 0,
    to: 100,
    attributes: { 'http.request.method': 'GET', 'url.full': 'https://tides/window?station=1' },
    ...more
  }),
  events
});
const root = span({ id: 'r', kind: SpanKind.SERVER, from: 0, to: 200 });

function phasesOf(one: Span, ...inside: Span[]): CallPhases | null {
  const { tree } = traceOf([root, one, ...inside]);
  return callPhases(
    tree,
    tree.nodes.findIndex(({ span: { spanId } }) => spanId === one.spanId)
  );
}

describe('callPhases', () => {
  // W3C Resource Timing, "Processing model": the order of the moments, and that TLS lies within the connection.
  it('reads the moments of Resource Timing', () => {
    const events = [
      event('fetchStart', 1),
      event('domainLookupStart', 2),
      event('domainLookupEnd', 12),
      event('connectStart', 12),
      event('secureConnectionStart', 20),
      event('connectEnd', 45),
      event('requestStart', 45),
      event('responseStart', 75),
      event('responseEnd', 98)
    ];
    expect(phasesOf(call(events))).toEqual({
      lookupNs: 10e6,
      connectNs: 8e6,
      tlsNs: 25e6,
      firstByteNs: 30e6,
      restNs: 25e6
    });
  });

  it('of a connection that was there tells only the first byte', () => {
    const events = ['domainLookupStart', 'domainLookupEnd', 'connectStart', 'connectEnd'].map((name) =>
      event(name, 0)
    );
    expect(phasesOf(call([...events, event('responseStart', 40)]))).toEqual({
      lookupNs: 0,
      connectNs: 0,
      tlsNs: 0,
      firstByteNs: 40e6,
      restNs: 60e6
    });
  });

  it('does not claim a first byte that nobody told', () => {
    expect(phasesOf(call([event('connectStart', 5), event('connectEnd', 9)]))).toMatchObject({
      connectNs: 4e6,
      firstByteNs: null,
      restNs: null
    });
    expect(phasesOf(call([event('exception', 5)]))).toBeNull();
  });

  it('takes moments outside of the call for damage', () => {
    expect(phasesOf(call([event('responseStart', 400)]))).toBeNull();
    expect(phasesOf(call([event('responseStart', -3)]))).toBeNull();
  });

  it('reads spans of look-ups and sockets inside the call, the plain connection within the secret one', () => {
    const inside = (id: string, parent: string, name: string, from: number, to: number): Span =>
      span({ id, parent, name, from, to });
    expect(
      phasesOf(
        call([]),
        inside('d', 'c', 'dns.lookup', 1, 11),
        inside('t', 'c', 'tls.connect', 0, 40),
        inside('p', 't', 'tcp.connect', 0, 20)
      )
    ).toEqual({ lookupNs: 10e6, connectNs: 10e6, tlsNs: 20e6, firstByteNs: null, restNs: null });
    expect(phasesOf(call([]), inside('x', 'c', 'parse', 1, 2))).toBeNull();
  });
});

describe('outgoingSums', () => {
  const asking = (
    id: string,
    from: number,
    status: number | string,
    station: number,
    events: SpanEvent[] = []
  ) =>
    call(events, {
      id,
      from,
      to: from + 10,
      attributes: {
        'http.request.method': 'GET',
        'url.full': `http://tides/window?station=${station}`,
        'http.response.status_code': status
      }
    });

  it('adds calls up by status, and knows which asked the same again', () => {
    const { tree, requests } = traceOf([
      root,
      asking('a', 0, 200, 1, [event('responseStart', 4)]),
      asking('b', 20, 200, 1, [event('responseStart', 6)]),
      asking('c', 40, 503, 2),
      asking('d', 60, '200', 3)
    ]);
    const calls = requests[0].nodes.filter((node) => tree.nodes[node].call);
    expect(outgoingSums(tree, calls)).toMatchObject([
      { status: 200, calls: 3, repeated: 1, phased: 2, answered: 2, firstByteNs: 10e6, restNs: 10e6 },
      { status: 503, calls: 1, repeated: 0, phased: 0, answered: 0 }
    ]);
  });

  it('takes what is no status for none', () => {
    const { tree, requests } = traceOf([root, asking('a', 0, 1e9, 1), asking('b', 20, -1, 2)]);
    const calls = requests[0].nodes.filter((node) => tree.nodes[node].call);
    expect(outgoingSums(tree, calls)).toMatchObject([{ status: 0, calls: 2 }]);
  });
});
