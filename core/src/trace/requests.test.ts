import { describe, expect, it } from 'vitest';
import { query, resource, span, traceOf } from '../testing/spans';
import { SpanKind } from './span';

const MS = 1e6;

describe('accountTrace', () => {
  it('books calls to their accounts and splits a remote call into network and the called side', () => {
    const there = resource('tides', 'quay-3', 9);
    const trace = traceOf([
      span({
        id: 'r',
        kind: SpanKind.SERVER,
        from: 0,
        to: 100,
        attributes: { 'http.request.method': 'GET', 'http.route': '/board' }
      }),
      query('q', 'r', 10, 30, 'select 1'),
      span({
        id: 'k',
        parent: 'r',
        kind: SpanKind.CLIENT,
        from: 30,
        to: 35,
        attributes: { 'db.system.name': 'redis', 'db.query.text': 'GET a' }
      }),
      span({
        id: 'c',
        parent: 'r',
        kind: SpanKind.CLIENT,
        from: 40,
        to: 80,
        attributes: { 'http.request.method': 'GET', 'url.full': 'http://tides/x' }
      }),
      span({
        id: 's',
        parent: 'c',
        kind: SpanKind.SERVER,
        from: 45,
        to: 75,
        attributes: { 'http.request.method': 'GET', 'http.route': '/x' },
        resource: there
      }),
      span({ id: 'l', parent: 'r', from: 80, to: 90, attributes: { 'lock.name': 'ledger' } }),
      span({ id: 'm', parent: 'r', kind: SpanKind.PRODUCER, from: 90, to: 92 }),
      span({ id: 'f', parent: 'r', from: 92, to: 95, attributes: { 'file.path': '/quay/plan.txt' } })
    ]);
    const [outer, inner] = trace.requests;
    expect(outer.endpoint).toBe('GET /board');
    expect(outer.ledger).toEqual({
      ownCode: 50 * MS,
      database: 20 * MS,
      cache: 5 * MS,
      remote: 10 * MS,
      messaging: 2 * MS,
      file: 3 * MS,
      lock: 10 * MS,
      pause: 0,
      queue: 0,
      unseen: 0
    });
    expect(inner.endpoint).toBe('GET /x');
    expect([outer.exclusiveNs, inner.exclusiveNs]).toEqual([70 * MS, 30 * MS]);
  });

  it('books long own-code stretches as unseen: longer than 50 ms and a tenth of the request', () => {
    const unseen = (length: number, whole: number): number =>
      traceOf([span({ id: 'r', from: 0, to: whole }), query('q', 'r', length, whole, 'select 1')]).requests[0]
        .ledger.unseen;
    expect(unseen(51, 100)).toBe(51 * MS);
    expect(unseen(49, 100)).toBe(0);
    expect(unseen(51, 600)).toBe(0);
  });

  it('takes pauses and waits for locks that events report out of own code', () => {
    const events = [
      { name: 'gc', offsetNs: 10 * MS, attributes: new Map([['gc.duration', 0.005]]) },
      { name: 'lock.wait', offsetNs: 30 * MS, attributes: new Map([['lock.wait.duration', 0.5]]) }
    ];
    const { ledger } = traceOf([span({ id: 'r', from: 0, to: 40, events })]).requests[0];
    expect(ledger).toMatchObject({ ownCode: 25 * MS, pause: 5 * MS, lock: 10 * MS });
  });

  it('counts work handed over to a consumer that begins later on its own', () => {
    const trace = traceOf([
      span({ id: 'r', kind: SpanKind.SERVER, from: 0, to: 10 }),
      span({ id: 'c', parent: 'r', kind: SpanKind.CONSUMER, from: 20, to: 50 })
    ]);
    expect(trace.requests.map(({ exclusiveNs }) => exclusiveNs)).toEqual([10 * MS, 30 * MS]);
  });

  it('calls a request failed by its status or a server error', () => {
    const failed = (attributes: Record<string, number>, status = 0): boolean =>
      traceOf([span({ id: 'r', from: 0, to: 1, attributes, status })]).requests[0].failed;
    expect([
      failed({}, 2),
      failed({ 'http.response.status_code': 503 }),
      failed({ 'http.status_code': 500 }),
      failed({ 'http.response.status_code': 404 })
    ]).toEqual([true, true, true, false]);
  });
});
