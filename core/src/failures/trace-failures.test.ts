import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { resource, span, type SpanShape } from '../testing/spans';
import { SpanKind, type SpanEvent } from '../trace/span';
import { buildTree } from '../trace/tree';
import { failuresIn, type TraceFailure } from './trace-failures';

const thrown = (type: string, message = 'berth 3 is taken', at = 1): SpanEvent => ({
  name: 'exception',
  offsetNs: at * 1e6,
  attributes: new Map([
    ['exception.type', type],
    ['exception.message', message],
    ['exception.stacktrace', `${type}: ${message}\n    at reserve (/srv/berths/plan.ts:41:9)`]
  ])
});
const served = (id: string, parent: string, service: string, more: Partial<SpanShape> = {}) =>
  span({
    id,
    parent: parent || undefined,
    from: 0,
    to: 100,
    kind: SpanKind.SERVER,
    resource: resource(service),
    attributes: { 'http.request.method': 'POST', 'http.route': `/${id}` },
    ...more
  });
const asks = (id: string, parent: string, service: string, status: number, more: Partial<SpanShape> = {}) =>
  span({
    id,
    parent,
    from: 5,
    to: 90,
    kind: SpanKind.CLIENT,
    resource: resource(service),
    attributes: {
      'http.request.method': 'POST',
      'http.response.status_code': status,
      'server.address': 'berths'
    },
    status: status >= 400 ? 2 : 0,
    ...more
  });
const told = (failures: TraceFailure[]): string[] =>
  failures.map(
    ({ identity: { type, message, endpoint }, passesOn, seen, way }) =>
      `${type || message}${endpoint ? ` at ${endpoint}` : ''}, ${passesOn < 0 ? way.map(({ service, label }) => `${service} ${label}`).join(' → ') : `passes on ${passesOn}`}${seen ? ', seen' : ''}`
  );

describe('where a failure starts, passes and is seen', () => {
  const gateway = served('gate', '', 'gateway', {
    status: 2,
    attributes: {
      'http.request.method': 'POST',
      'http.route': '/calls/:id/berth',
      'http.response.status_code': 502
    }
  });
  const toPilots = asks('to-pilots', 'gate', 'gateway', 500, {
    attributes: {
      'http.request.method': 'POST',
      'http.response.status_code': 500,
      'server.address': 'pilots'
    }
  });
  const pilots = served('pilots', 'to-pilots', 'pilots', { status: 2 });
  const toBerths = asks('to-berths', 'pilots', 'pilots', 409);
  const berths = served('berths', 'to-berths', 'berths', { status: 2, events: [thrown('BerthTaken')] });
  const inner = span({
    id: 'reserve',
    parent: 'berths',
    from: 10,
    to: 50,
    status: 2,
    resource: resource('berths'),
    events: [thrown('BerthTaken')]
  });

  it('follows it through the services; the same exception told of twice is one', () =>
    expect(told(failuresIn(buildTree([gateway, toPilots, pilots, toBerths, berths, inner])))).toEqual([
      'BerthTaken, berths BerthTaken → pilots 409 from berths → gateway 502 POST /calls/:id/berth, seen',
      '409 from berths at pilots: POST berths/, passes on 0, seen',
      '500 from pilots at gateway: POST pilots/, passes on 0, seen'
    ]));

  it('knows one that was caught: nobody above failed', () => {
    const caught = [
      served('gate', '', 'gateway'),
      asks('try-1', 'gate', 'gateway', 503),
      served('berths', 'try-1', 'berths', { status: 2, events: [thrown('BerthTaken')] }),
      asks('try-2', 'gate', 'gateway', 200)
    ];
    expect(told(failuresIn(buildTree(caught)))).toEqual([
      'BerthTaken, berths BerthTaken → gateway 503 from berths',
      '503 from berths at gateway: POST berths/, passes on 0'
    ]);
  });

  it('takes an exception that was thrown anew for one of its own that passes the other on', () =>
    expect(
      told(
        failuresIn(
          buildTree([{ ...berths, parentId: '', events: [thrown('PlanFailed', 'cannot plan')] }, inner])
        )
      )
    ).toEqual(['BerthTaken, berths BerthTaken, seen', 'PlanFailed, passes on 0, seen']));

  it('tells an exception that was recorded and handled from one that failed the request', () =>
    expect(
      failuresIn(buildTree([served('gate', '', 'gateway', { events: [thrown('BerthTaken')] })])).map(
        ({ seen, atNs }) => [seen, atNs]
      )
    ).toEqual([[false, 1e6]]));

  it('counts each exception that one span tells of, the same told of twice once; what it went on after was caught', () =>
    expect(
      told(
        failuresIn(
          buildTree([
            served('gate', '', 'gateway', {
              status: 2,
              events: [
                thrown('Busy', 'crane busy', 1),
                thrown('BerthTaken', 'taken', 2),
                thrown('BerthTaken', 'taken', 3)
              ]
            })
          ])
        )
      )
    ).toEqual(['Busy, gateway Busy', 'BerthTaken, gateway BerthTaken, seen']));

  it('finds nothing where nothing failed, also of a call that was answered with less than 400', () =>
    expect(failuresIn(buildTree([served('gate', '', 'gateway'), asks('a', 'gate', 'gateway', 304)]))).toEqual(
      []
    ));

  it('adds up: each failure that starts has one way, and every other passes one of them on', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            parent: fc.nat(),
            failed: fc.boolean(),
            service: fc.nat(2),
            kind: fc.constantFrom(1, 2, 3),
            throws: fc.boolean()
          }),
          { minLength: 1, maxLength: 25 }
        ),
        (shapes) => {
          const spans = shapes.map(({ parent, failed, service, kind, throws }, i) =>
            span({
              id: `s${i}`,
              parent: i > 0 ? `s${parent % i}` : undefined,
              from: i,
              to: 100 - i,
              kind,
              status: failed ? 2 : 0,
              resource: resource(`service ${service}`),
              events: throws ? [thrown(`E${i % 3}`)] : []
            })
          );
          const found = failuresIn(buildTree(spans));
          expect(found.length === 0).toBe(!shapes.some(({ failed, throws }) => failed || throws));
          for (const { passesOn, way, node } of found) {
            expect(way.length > 0).toBe(passesOn < 0);
            if (passesOn >= 0) expect(found[passesOn].passesOn).toBe(-1);
            expect(shapes[Number(spans[node].name.slice(1))]).toBeDefined();
          }
          // One that starts has no other below it.
          expect(new Set(found.map(({ node }) => node)).size).toBe(found.length);
        }
      )
    ));
});
