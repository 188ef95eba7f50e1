import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { NO_CRASH } from '@tromix/core/crashes/crash';
import { crashIdentity, summariseCrash } from '@tromix/core/crashes/summary';
import { afterAll, beforeAll, expect, it, vi } from 'vitest';
import { scopeFrom, scopeWindow } from '$lib/scope';
import { programOrPlace } from '$lib/ui/crashes/crash-reading';
import { MINUTE, openWriter, RETENTION, sendRequests } from '$lib/testing/sent-requests';
import type { Writer } from '../ingest/writer';

let folder: string;
let url: string;
let writer: Writer;
vi.mock('../settings', () => ({
  settings: () => ({
    databaseUrl: url,
    dataFolder: folder,
    maxProfileBytes: 1e6,
    sourceFolders: [],
    retention: RETENTION
  })
}));
vi.mock('../workers', async () => ({
  ...(await import('$lib/testing/local-workers')).localWorkers(() => url),
  callEvidenceReader: () => Promise.reject(Object.assign(new Error('ENOENT'), { code: 'ENOENT' }))
}));
const { crashOf } = await import('./crash');
const { failuresOf } = await import('./failures');

const NOW = Math.floor(Date.now() / MINUTE) * MINUTE;
const AT = NOW - 5 * MINUTE;
const ID = 'c'.repeat(64);
const text = (key: string, stringValue: string): object => ({ key, value: { stringValue } });
const whole = (key: string, intValue: number): object => ({ key, value: { intValue: String(intValue) } });

interface Sent {
  trace: number;
  service: string;
  host?: string;
  pid: number;
  id: number;
  parent?: number;
  kind?: number;
  from: number;
  to: number;
  attributes?: object[];
}
/** A span; times in milliseconds from the end of the process. */
const sent = ({
  trace,
  service,
  host = 'quay-3',
  pid,
  id,
  parent,
  kind = 2,
  from,
  to,
  attributes = []
}: Sent): object => ({
  resource: {
    attributes: [text('service.name', service), text('host.name', host), whole('process.pid', pid)]
  },
  scopeSpans: [
    {
      spans: [
        {
          traceId: trace.toString(16).padStart(32, '0'),
          spanId: (trace * 100 + id).toString(16).padStart(16, '0'),
          ...(parent ? { parentSpanId: (trace * 100 + parent).toString(16).padStart(16, '0') } : {}),
          name: kind === 2 ? 'GET /tides' : kind === 3 ? 'GET' : 'predict',
          kind,
          startTimeUnixNano: `${AT + from}000000`,
          endTimeUnixNano: `${AT + to}000000`,
          attributes: [
            ...(kind === 2 ? [text('http.route', '/tides'), text('http.request.method', 'GET')] : []),
            ...attributes
          ]
        }
      ]
    }
  ]
});
const asked = (error = ''): object[] => [
  text('server.address', 'tides.quay'),
  whole('server.port', 8080),
  ...(error ? [text('error.type', error)] : [])
];

beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-crash-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  writer = await openWriter(url);
  await sendRequests(writer, [
    // Before it all was well: who asks tides, and at which address.
    sent({ trace: 1, service: 'gateway', pid: 1, id: 1, from: -60_000, to: -59_000 }),
    sent({
      trace: 1,
      service: 'gateway',
      pid: 1,
      id: 2,
      parent: 1,
      kind: 3,
      from: -59_900,
      to: -59_100,
      attributes: asked()
    }),
    sent({ trace: 1, service: 'tides', pid: 70, id: 3, parent: 2, from: -59_800, to: -59_200 }),
    // Under way at the end: what it did inside was sent, its own span never.
    sent({ trace: 2, service: 'gateway', pid: 1, id: 1, from: -300, to: 20 }),
    sent({
      trace: 2,
      service: 'gateway',
      pid: 1,
      id: 2,
      parent: 1,
      kind: 3,
      from: -290,
      to: 10,
      attributes: asked('ECONNRESET')
    }),
    sent({ trace: 2, service: 'tides', pid: 70, id: 4, parent: 3, kind: 0, from: -200, to: -100 }),
    // It answered 503 by itself before its end; and somebody else asked another address.
    sent({ trace: 3, service: 'gateway', pid: 1, id: 1, from: -3000, to: -2000 }),
    sent({
      trace: 3,
      service: 'gateway',
      pid: 1,
      id: 2,
      parent: 1,
      kind: 3,
      from: -2900,
      to: -2100,
      attributes: asked('503')
    }),
    sent({ trace: 4, service: 'gateway', pid: 1, id: 1, from: 100, to: 200 }),
    sent({
      trace: 4,
      service: 'gateway',
      pid: 1,
      id: 2,
      parent: 1,
      kind: 3,
      from: 110,
      to: 190,
      attributes: [text('server.address', 'berths.quay'), text('error.type', 'ECONNREFUSED')]
    }),
    // Started again, and another service of its host.
    sent({ trace: 5, service: 'tides', pid: 71, id: 1, from: 2000, to: 2100 }),
    ...[-240_000, -120_000, 120_000, 180_000].map((at, i) =>
      sent({ trace: 10 + i, service: 'manifests', pid: 9, id: 1, from: at, to: at + 100 })
    )
  ]);
  const crash = {
    ...NO_CRASH,
    cause: 'memory' as const,
    exception: { type: '', message: 'heap out of memory', stack: '' },
    pid: 70
  };
  const record = {
    id: ID,
    kind: 'crash',
    format: 'process-end',
    name: '',
    bytes: 9,
    service: 'tides',
    host: 'quay-3',
    release: '',
    pid: 70,
    startedAtUs: AT * 1000,
    durationNs: 0,
    receivedAtUs: NOW * 1000,
    summary: JSON.stringify(summariseCrash(crash, []))
  };
  const failure = { ...crashIdentity(crash), endpoint: 'tides: the process ended' };
  await writer.addEvidence(record, { failure });
  await writer.addEvidence(record, { failure });
});
afterAll(async () => {
  await writer.close();
  await rm(folder, { recursive: true, force: true });
});

it('tells what it cut off, who got no answer, when it served again, and that its file is gone', async () => {
  const detail = (await crashOf(ID, NOW))!;
  expect(detail.cutOff.map(({ last, traceId }) => [last, Number.parseInt(traceId, 16)])).toEqual([
    ['predict', 2]
  ]);
  expect(detail.failedCalls.map(({ answer, service }) => [answer, service])).toEqual([
    ['ECONNRESET', 'gateway']
  ]);
  expect(detail.servedAgainUs).toBe((AT + 2000) * 1000);
  expect(detail.isKnown).toBe(true);
  expect(detail.crash).toBeNull();
  expect(await crashOf('d'.repeat(64), NOW)).toBeNull();
});

it('tells the program from the place by what else was served on its host, and claims nothing where nothing was', async () => {
  const { beside } = (await crashOf(ID, NOW))!;
  expect(beside.others.reduce((sum, count) => sum + count, 0)).toBeGreaterThan(3);
  // Nothing is said of minutes that are still to come.
  expect(beside.to).toBe(Math.floor(NOW / MINUTE) + 1);
  const said = (of: Partial<typeof beside>): string =>
    programOrPlace({ ...beside, ...of }, AT * 1000, 'quay-3')
      .map((word) => (typeof word === 'string' ? word : word[0]))
      .join('');
  expect(said({})).toContain('it was the program, not the place');
  const silent = beside.others.map((count, i) => (i + beside.from > Math.floor(AT / MINUTE) ? 0 : count));
  expect(said({ others: silent })).toContain('look at the host');
  expect(said({ others: beside.others.map(() => 0) })).toContain('is not told');
});

it('is a failure of its service, counted once however often it is sent, and found by its kind', async () => {
  const scope = scopeFrom(new URLSearchParams({ service: 'tides' }));
  const list = await failuresOf(scope, scopeWindow(scope, NOW), NOW, { kind: 'crash' });
  expect(list.groups.map(({ message, times, requests }) => [message, times, requests])).toEqual([
    ['heap out of memory', 1, 0]
  ]);
  const handled = await failuresOf(scope, scopeWindow(scope, NOW), NOW, {
    kind: 'crash',
    handled: 'reached'
  });
  expect(handled.groups).toEqual([]);
});
