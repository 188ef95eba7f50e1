import { describe, expect, it } from 'vitest';
import { callGroups } from '../core/src/calls/groups';
import { requestParts } from '../core/src/calls/parts';
import { callPhases } from '../core/src/calls/phases';
import type { Finding } from '../core/src/findings/finding';
import type { Rule } from '../core/src/findings/request-rules';
import { findInRequest } from '../core/src/findings/request-findings';
import { recorded, RECORDED, type Recorded } from './recorded-traces';

/**
 * What is said of requests of a real service, as the official instrumentation of Node.js 20 recorded them (`traces/record.mjs`). What each request
 * does is known from the program.
 */
const of = (scenario: string, endpoint: string): Recorded[] =>
  recorded(scenario).filter(({ request }) => request.endpoint === endpoint);
const found = ({ trace, request }: Recorded): Finding<Rule>[] => findInRequest(trace, request);
const rules = (one: Recorded): Rule[] => found(one).map(({ rule }) => rule);
const share = ({ request }: Recorded, ...accounts: (keyof Recorded['request']['ledger'])[]): number =>
  accounts.reduce((sum, account) => sum + request.ledger[account], 0) / request.durationNs;
/** All ways in which a request can be said to repeat itself. */
const REPEATS: Rule[] = [
  'query-per-row',
  'row-by-row-writes',
  'same-call-again',
  'chatty-remote',
  'chatty-cache',
  'chatty-messaging'
];
const repeats = (one: Recorded): Rule[] => rules(one).filter((rule) => REPEATS.includes(rule));

describe('every recorded request', () => {
  it.each(RECORDED)('of %s has a ledger that adds up', (scenario) => {
    for (const { request } of recorded(scenario))
      expect(Object.values(request.ledger).reduce((sum, ns) => sum + ns, 0)).toBe(request.durationNs);
  });
  it.each(RECORDED)(
    'of %s has findings that cost no more than it takes, and no call of a connection',
    (scenario) => {
      for (const one of recorded(scenario)) {
        for (const { costNs, sentence } of found(one)) {
          expect(costNs).toBeLessThanOrEqual(one.request.durationNs);
          expect(sentence).not.toMatch(/\b(?:1\d\d|[2-9]\d\d) %|NaN|undefined/);
        }
        for (const { fingerprint } of callGroups(one.trace.tree, one.request))
          expect(fingerprint).not.toMatch(/connect/);
      }
    }
  );
});

describe('loops as people write them', () => {
  it.each([
    ['/each', 40, 1, 'one after another'],
    ['/all', 40, 10, 'side by side'],
    ['/pairs', 40, 2, 'two at a time'],
    ['/spans', 25, 1, 'one after another']
  ])('%s: %d queries, %d at once', (path, calls, atOnce, words) => {
    const [one] = of('loops', `GET ${path}`);
    expect(repeats(one)).toEqual(['query-per-row']);
    const [finding] = found(one).filter(({ rule }) => rule === 'query-per-row');
    expect(finding.figures).toMatchObject({
      calls,
      fedBy: 'select id, name from vessel order by id limit ?'
    });
    expect(finding.sentence).toContain(words);
    // What the pool lets through at once is at most its size.
    expect(finding.figures.atOnce).toBeLessThanOrEqual(atOnce);
    if (atOnce > 1) expect(finding.figures.atOnce).toBeGreaterThan(1);
  });

  it('/turns: two loops, each fed by the query before both', () => {
    const [one] = of('loops', 'GET /turns');
    const loops = found(one).filter(({ rule }) => rule === 'query-per-row');
    expect(loops.map(({ figures }) => figures.calls)).toEqual([30, 30]);
    for (const { figures } of loops)
      expect(figures.fedBy).toBe('select id, name from vessel order by id limit ?');
  });

  it('/nested: one finding of 60 and one of 6, the inner fed by the outer', () => {
    const [one] = of('loops', 'GET /nested');
    const loops = found(one).filter(({ rule }) => rule === 'query-per-row');
    expect(loops.map(({ figures }) => [figures.calls, figures.fedBy])).toEqual([
      [60, 'select id from berth where quay = ?'],
      [6, 'select id, name from quay order by id limit ?']
    ]);
  });

  it('says once that values were not recorded', () => {
    const [one] = of('loops', 'GET /turns');
    expect(found(one).filter(({ sentence }) => sentence.includes('not recorded'))).toHaveLength(1);
  });

  it.each(['/batches', '/in-lists', '/pages', '/key-pages', '/numbers'])('%s is none', (path) => {
    const [one] = of('no-loops', `GET ${path}`);
    expect(one.request.callCount).toBeGreaterThan(5);
    expect(repeats(one)).toEqual([]);
  });

  it('/signs: numbers that differ by their sign are different', () => {
    const [one] = of('no-loops', 'GET /signs');
    const [finding] = found(one).filter(({ rule }) => rule === 'query-per-row');
    expect(repeats(one)).toEqual(['query-per-row']);
    expect(finding.figures).toMatchObject({ calls: 8, distinct: 8 });
  });
});

describe('GraphQL', () => {
  const all = of('graphql', 'POST /graphql');
  it('resolvers side by side: the time is the database’s and the way to it, nothing is unseen', () => {
    const [one] = all;
    expect(callGroups(one.trace.tree, one.request)[0].count).toBe(6);
    expect(share(one, 'database', 'queue', 'remote')).toBeGreaterThan(0.7);
    expect(one.request.ledger.unseen).toBe(0);
  });
  it('a query for every row of a resolver', () => {
    const one = all.find(({ request }) => request.callCount === 31)!;
    expect(repeats(one)).toEqual(['query-per-row']);
    expect(found(one).find(({ rule }) => rule === 'query-per-row')!.figures.calls).toBe(30);
  });
  it('a batching loader: no loop, though it was asked 30 times', () => {
    const one = all.find(({ request }) => request.callCount === 2)!;
    expect(repeats(one)).toEqual([]);
  });
});

describe('work that is handed over', () => {
  it('by a span that ends at once is the database’s', () => {
    const [one] = of('handed-over', 'GET /handed-over');
    expect(share(one, 'database', 'queue', 'remote')).toBeGreaterThan(0.8);
    expect(one.request.ledger.unseen).toBe(0);
    expect(one.request.afterNs).toBeLessThan(1e6);
  });
  it('after the answer counts in no share, and is told', () => {
    const [one] = of('handed-over', 'GET /after');
    expect(one.request.afterNs).toBeGreaterThan(600e6);
    expect(one.request.ledger.database).toBeLessThan(5e6);
    expect(rules(one)).toEqual([]);
  });
  it('to an answer that is streamed is waited for', () => {
    const [one] = of('handed-over', 'GET /stream');
    expect(share(one, 'database', 'queue', 'remote')).toBeGreaterThan(0.9);
  });
});

describe('connections and pools', () => {
  const busy = of('pool', 'GET /busy');
  it('waiting for one is queue, opening one a remote call, and neither is a statement', () => {
    expect(busy).toHaveLength(8);
    for (const one of busy) expect(one.request.callCount).toBe(1);
    // Eight requests, two connections, 60 ms each: the last two wait for three others.
    const waited = busy.map(({ request }) => request.ledger.queue / 1e6);
    expect(waited[0]).toBeGreaterThan(170);
    expect(waited.filter((ms) => ms > 40)).toHaveLength(6);
    for (const { request } of busy.slice(-2)) expect(request.ledger.remote).toBeGreaterThan(0);
  });
  it('is found where requests wait for a connection, and not where they open one', () => {
    for (const one of busy)
      expect(rules(one).includes('waits-for-connection')).toBe(
        one.request.ledger.queue > 0.1 * one.request.durationNs
      );
  });
  it('is found where they wait for a row that another holds', () => {
    const claims = of('lock', 'POST /claim');
    expect(claims.map((one) => rules(one).includes('waits-for-lock'))).toEqual([true, true, false]);
    for (const one of claims) expect(rules(one)).not.toContain('one-slow-call');
  });
});

describe('one call seen twice', () => {
  it('by a query builder and by the driver counts once', () => {
    const [one] = of('orm', 'GET /builder');
    expect(callGroups(one.trace.tree, one.request)[0].count).toBe(45);
    expect(repeats(one)).toEqual(['query-per-row']);
  });
  it('an object mapper’s loop is found, its join is none', () => {
    expect(found(of('orm', 'GET /orm')[0])[0].figures.calls).toBe(45);
    expect(repeats(of('orm', 'GET /orm-joined')[0])).toEqual([]);
  });
});

describe('other sides', () => {
  it('rows written one by one, and the number after each is no finding', () => {
    const [one] = of('mariadb', 'POST /cargo');
    expect(repeats(one)).toEqual(['row-by-row-writes']);
    expect(found(one)[0].figures.calls).toBe(30);
  });
  it('a cache asked key by key', () =>
    expect(repeats(of('redis', 'GET /tides')[0])).toEqual(['chatty-cache']));
  it('messages sent one by one, to the queue their key names', () => {
    const [one] = of('rabbitmq', 'POST /notices');
    expect(callGroups(one.trace.tree, one.request)[0]).toMatchObject({
      kind: 'messaging',
      fingerprint: 'send notices',
      count: 40
    });
  });
  it('a remote call for every item', () =>
    expect(repeats(of('remote', 'GET /roster')[0])).toEqual(['chatty-remote']));
  it('a limit that ran out, and a call that took just as long', () => {
    expect(rules(of('remote', 'GET /timeout')[0])).toContain('round-timeout');
    expect(rules(of('remote', 'GET /patient')[0])).not.toContain('round-timeout');
  });
});

describe('what is no request', () => {
  it('file reads at the start and sockets are background work', () => {
    const all = recorded('start');
    const background = all.filter(({ request }) => request.kind === 'background');
    expect(background.length).toBeGreaterThan(2000);
    expect(
      all
        .filter(({ request }) => request.kind === 'request')
        .map(({ request }) => request.endpoint)
        .sort()
    ).toEqual(['GET /each', 'GET /pilots/:id']);
  });
  it('answers 404 without a route are one endpoint', () =>
    expect(of('remote', '(no route)')).toHaveLength(3));
});

describe('a service with Fastify and TypeORM', () => {
  it('has the endpoints its routes name, and one for what has no route', () => {
    const served = recorded('fastify').filter(({ request }) => request.kind === 'request');
    expect(served.map(({ request }) => request.endpoint).sort()).toEqual([
      '(no route)',
      'GET /joined',
      'GET /mapped/:berth',
      'GET /pilots/:id',
      'POST /notes'
    ]);
  });

  it('repeats itself where the mapper does, each call counted once though two spans tell it', () => {
    const [one] = of('fastify', 'GET /mapped/:berth');
    expect(repeats(one)).toEqual(['query-per-row']);
    const [finding] = found(one);
    expect(finding.figures).toMatchObject({ calls: 30 });
    expect(finding.sentence).toMatch(/one after another, after select "Vessel"/);
    expect(
      callGroups(one.trace.tree, one.request)
        .map(({ nodes }) => nodes.length)
        .sort()
    ).toEqual([1, 30]);
  });

  it('does not where the mapper joins', () => {
    const [one] = of('fastify', 'GET /joined');
    expect(found(one)).toEqual([]);
    expect(share(one, 'database')).toBeGreaterThan(0.5);
  });
});

describe('outgoing requests over sockets that are told', () => {
  const [{ trace, request }] = of('connections', 'GET /dues');
  const calls = request.nodes.filter((node) => trace.tree.nodes[node].call?.kind === 'http');

  it('have the phases of the connection where one was opened, and none where it was kept', () => {
    const phases = calls.map((node) => callPhases(trace.tree, node));
    expect(phases.slice(1)).toEqual([null, null]);
    const [first] = phases;
    const secret = trace.tree.nodes.findIndex(({ span }) => span.name === 'tls.connect');
    // Together they are what the secret socket took, from being asked to connect.
    expect(first!.lookupNs + first!.connectNs + first!.tlsNs).toBeCloseTo(
      trace.tree.end[secret] - trace.tree.start[secret],
      -2
    );
    expect(Math.min(first!.lookupNs, first!.connectNs, first!.tlsNs)).toBeGreaterThan(0);
  });

  it('are added up by status, with the one that asked the same again', () => {
    const groups = requestParts(trace, request).filter(({ kind }) => kind === 'http');
    expect(
      groups.flatMap(({ outgoing }) =>
        outgoing.map(({ status, calls: n, repeated }) => [status, n, repeated])
      )
    ).toEqual([
      [200, 2, 1],
      [404, 1, 0]
    ]);
  });
});
