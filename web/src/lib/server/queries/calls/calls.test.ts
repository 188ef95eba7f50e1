import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { scopeFrom, type Scope } from '$lib/scope';
import { MINUTE, openWriter, RETENTION, sendRequests } from '$lib/testing/sent-requests';
import type { Writer } from '../../ingest/writer';

let folder: string;
let url: string;
let writer: Writer;
vi.mock('../../settings', () => ({
  settings: () => ({ databaseUrl: url, sourceFolders: [], retention: RETENTION })
}));
vi.mock('../../workers', async () => (await import('$lib/testing/local-workers')).localWorkers(() => url));
const { callsOf } = await import('./calls');
const { callGroupOf } = await import('./call-group');

const NOW = Math.floor(Date.now() / MINUTE) * MINUTE;
const AT = NOW - 5 * MINUTE;
const scope: Scope = scopeFrom(new URLSearchParams({ last: '30m' }));

type Value = string | number | string[];
const attribute = (key: string, value: Value): object => ({
  key,
  value:
    typeof value === 'number'
      ? { intValue: String(value) }
      : typeof value === 'string'
        ? { stringValue: value }
        : { arrayValue: { values: value.map((stringValue) => ({ stringValue })) } }
});
const nano = (ms: number): string => `${Math.round((AT + ms) * 1000)}000`;

interface Inside {
  kind: number;
  from: number;
  to: number;
  attributes: Record<string, Value>;
  /** Name and milliseconds from the start of the request. */
  events?: [string, number][];
  failed?: boolean;
}
/** A request of a route on a host with some calls inside. */
function request(trace: number, route: string, host: string, calls: readonly Inside[]): object {
  const traceId = trace.toString(16).padStart(32, '0');
  const id = (n: number): string => (trace * 100 + n).toString(16).padStart(16, '0');
  const attributes = (of: Record<string, Value>): object[] =>
    Object.entries(of).map(([key, value]) => attribute(key, value));
  const spans = [
    {
      traceId,
      spanId: id(1),
      name: 'GET',
      kind: 2,
      startTimeUnixNano: nano(0),
      endTimeUnixNano: nano(200),
      attributes: attributes({ 'http.request.method': 'GET', 'http.route': route })
    },
    ...calls.map(({ kind, from, to, attributes: of, events = [], failed }, i) => ({
      traceId,
      spanId: id(2 + i),
      parentSpanId: id(1),
      name: 'call',
      kind,
      startTimeUnixNano: nano(from),
      endTimeUnixNano: nano(to),
      status: { code: failed ? 2 : 0 },
      attributes: attributes(of),
      events: events.map(([name, ms]) => ({ name, timeUnixNano: nano(ms) }))
    }))
  ];
  return {
    resource: {
      attributes: attributes({ 'service.name': 'berths', 'host.name': host, 'service.version': '7.2' })
    },
    scopeSpans: [{ spans }]
  };
}

const file = (operation: string, name: string, bytes: number): Inside => ({
  kind: 1,
  from: 0,
  to: 10,
  attributes: {
    'file.operation': operation,
    'file.path': name,
    [operation === 'readFile' ? 'file.bytes_read' : 'file.bytes_written']: bytes,
    'code.file.path': 'gauges.ts',
    'code.line.number': 12
  }
});
const asks = (from: number, station: number, status: number, events: [string, number][] = []): Inside => ({
  kind: 3,
  from,
  to: from + 20,
  attributes: {
    'http.request.method': 'GET',
    'url.full': `http://tides/window?station=${station}`,
    'http.response.status_code': status,
    'http.request.header.accept': ['application/json'],
    'http.request.header.authorization': ['Bearer abcdefgh1234567890'],
    'http.response.header.content_type': ['application/json']
  },
  events,
  failed: status >= 400
});

const ASKS = [
  asks(0, 1, 200, [
    ['connectStart', 0],
    ['connectEnd', 4],
    ['responseStart', 14]
  ]),
  asks(30, 1, 200, [['responseStart', 36]]),
  asks(60, 2, 503)
];

beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-calls-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  writer = await openWriter(url);
  await sendRequests(writer, [
    request(1, '/gauge', 'quay-1', [
      file('readFile', '/var/gauges/17.log', 4000),
      file('readFile', '/var/gauges/18.log', 6000),
      file('appendFile', '/var/gauges/17.log', 10),
      file('stat', '/var/gauges/17.log', 0)
    ]),
    request(2, '/gauge', 'quay-2', [file('readFile', '/var/gauges/3.log', 1000)]),
    request(3, '/plan', 'quay-1', [...ASKS])
  ]);
});
afterAll(async () => {
  await writer.close();
  await rm(folder, { recursive: true, force: true });
});

describe('files', () => {
  const listed = (more: object = {}) =>
    callsOf(scope, { rows: 'file', kind: 'file', origin: undefined, ...more }, NOW);

  it('are listed by pattern, whatever is done to them, with who asks most', async () => {
    const { rows, all } = await listed();
    expect(rows).toMatchObject([
      {
        name: '/var/gauges/:id.log',
        calls: 5,
        // Three read whole, one appended to; to look at it opens nothing.
        opens: 4,
        bytesRead: 11_000,
        bytesWritten: 10,
        asker: 'GET /gauge',
        origin: 'gauges.ts:12'
      }
    ]);
    expect(all).toMatchObject({ calls: 5, groups: 1 });
  });

  it('of one pattern are listed by what is done', async () => {
    const { rows } = await listed({ rows: 'statement', file: '/var/gauges/:id.log' });
    expect(rows.map(({ name, calls, opens }) => [name, calls, opens])).toEqual([
      ['readFile /var/gauges/:id.log', 3, 3],
      ['appendFile /var/gauges/:id.log', 1, 1],
      ['stat /var/gauges/:id.log', 1, 0]
    ]);
    expect((await listed({ rows: 'statement', file: '/elsewhere' })).rows).toEqual([]);
  });

  it.each([
    ['host' as const, ['quay-1', 'quay-2'], [3, 1]],
    ['endpoint' as const, ['GET /gauge'], [4]],
    ['origin' as const, ['gauges.ts:12'], [4]]
  ])('by %s add up to the same', async (rows, names, opens) => {
    const page = await listed({ rows });
    expect(page.rows.map(({ name }) => name)).toEqual(names);
    expect(page.rows.map((row) => row.opens)).toEqual(opens);
    expect(page.rows.reduce((sum, { bytesRead }) => sum + bytesRead, 0)).toBe(11_000);
  });
});

describe('outgoing requests', () => {
  const listed = (rows: 'statement' | 'host' | 'endpoint') =>
    callsOf(scope, { rows, kind: 'http', origin: undefined }, NOW);

  it('tell statuses, repeats and phases', async () => {
    const { rows } = await listed('statement');
    expect(rows).toHaveLength(1);
    expect(rows[0]).toMatchObject({
      name: 'GET tides/window?station',
      calls: 3,
      failed: 1,
      asker: 'GET /plan',
      opens: null
    });
    expect(rows[0].outgoing).toEqual({
      calls: 3,
      repeated: 1,
      phased: 2,
      answered: 2,
      lookupNs: 0,
      connectNs: 4e6,
      tlsNs: 0,
      firstByteNs: 16e6,
      restNs: 20e6,
      statuses: [
        { status: 200, calls: 2 },
        { status: 503, calls: 1 }
      ]
    });
  });

  it.each(['host', 'endpoint'] as const)('are told by %s too', async (rows) => {
    const page = await listed(rows);
    expect(page.rows.map(({ outgoing }) => outgoing?.repeated)).toEqual([1]);
  });

  it('of one group have a page with headers, without what is secret in them', async () => {
    const [{ id }] = (await listed('statement')).rows;
    const group = (await callGroupOf(scope, id, NOW))!;
    expect(group.outgoing?.statuses).toHaveLength(2);
    expect(group.hosts).toMatchObject([{ name: 'quay-1', calls: 3 }]);
    expect(group.headers.looked).toBe(3);
    expect(group.headers.headers.map(({ of, name }) => `${of} ${name}`)).toEqual([
      'request accept',
      'response content-type'
    ]);
    expect(group.headers.headers[0].values).toEqual([{ value: 'application/json', calls: 3 }]);
    expect(JSON.stringify(group.headers)).not.toContain('abcdefgh');
  });

  it('that come late are counted once', async () => {
    const late = request(3, '/plan', 'quay-1', [...ASKS, asks(90, 3, 404)]);
    await sendRequests(writer, [late]);
    const { rows } = await listed('statement');
    expect(rows[0].outgoing).toMatchObject({ calls: 4, repeated: 1, phased: 2, firstByteNs: 16e6 });
    expect(rows[0].outgoing!.statuses).toHaveLength(3);
  });
});
