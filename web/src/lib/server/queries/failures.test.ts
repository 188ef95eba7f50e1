import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, expect, it, vi } from 'vitest';
import { scopeFrom, scopeWindow } from '$lib/scope';
import { MINUTE, openWriter, RETENTION, sendRequests } from '$lib/testing/sent-requests';
import type { Writer } from '../ingest/writer';

let folder: string;
let url: string;
let writer: Writer;
vi.mock('../settings', () => ({
  settings: () => ({ databaseUrl: url, sourceFolders: [], retention: RETENTION })
}));
vi.mock('../workers', async () => (await import('$lib/testing/local-workers')).localWorkers(() => url));
const { failuresOf } = await import('./failures');
const { failureOf } = await import('./failure');
const { requestsOf } = await import('./requests');

const NOW = Math.floor(Date.now() / MINUTE) * MINUTE;
const scope = scopeFrom(new URLSearchParams({ last: '30m' }));
const window = scopeWindow(scope, NOW);
const text = (key: string, stringValue: string): object => ({ key, value: { stringValue } });
const resource = (service: string, release = '7.3'): object => ({
  attributes: [text('service.name', service), text('service.version', release), text('host.name', 'quay-2')]
});

interface Made {
  trace: number;
  minutesAgo: number;
  user?: string;
  /** Thrown in `berths`; '' for a request that goes well. */
  error?: string;
  /** Whether the gateway answers 502. */
  seen?: boolean;
  window?: string;
}
/** A request of the gateway that asks `berths`. */
function made({ trace, minutesAgo, user = '', error = '', seen = true, window: kind = '' }: Made): {
  gateway: object;
  berths: object;
} {
  const at = (ms: number): string => `${NOW - minutesAgo * MINUTE + ms}000000`;
  const id = (n: number): string => (trace * 100 + n).toString(16).padStart(16, '0');
  const base = { traceId: trace.toString(16).padStart(32, '0') };
  const failed = error !== '' && seen ? { code: 2 } : {};
  const http = (route: string, status: number): object[] => [
    text('http.request.method', 'POST'),
    text('http.route', route),
    { key: 'http.response.status_code', value: { intValue: String(status) } }
  ];
  return {
    gateway: {
      resource: resource('gateway'),
      scopeSpans: [
        {
          spans: [
            {
              ...base,
              spanId: id(1),
              name: 'POST',
              kind: 2,
              startTimeUnixNano: at(0),
              endTimeUnixNano: at(90),
              status: failed,
              attributes: [
                ...http('/calls/:id/berth', error && seen ? 502 : 200),
                ...(user ? [text('user.id', user)] : []),
                ...(kind ? [text('window', kind)] : [])
              ]
            },
            {
              ...base,
              spanId: id(2),
              parentSpanId: id(1),
              name: 'POST',
              kind: 3,
              startTimeUnixNano: at(5),
              endTimeUnixNano: at(80),
              status: error ? { code: 2 } : {},
              attributes: [...http('/calls/:id/berth', error ? 409 : 200), text('server.address', 'berths')]
            }
          ]
        }
      ]
    },
    berths: {
      resource: resource('berths'),
      scopeSpans: [
        {
          spans: [
            {
              ...base,
              spanId: id(3),
              parentSpanId: id(2),
              name: 'POST',
              kind: 2,
              startTimeUnixNano: at(10),
              endTimeUnixNano: at(70),
              status: error ? { code: 2 } : {},
              attributes: http('/berths', error ? 409 : 200),
              events: error
                ? [
                    {
                      name: 'exception',
                      timeUnixNano: at(60),
                      attributes: [
                        text('exception.type', 'BerthTaken'),
                        text('exception.message', error),
                        text(
                          'exception.stacktrace',
                          `BerthTaken: ${error}\n    at reserve (/srv/berths/plan.ts:41:9)`
                        )
                      ]
                    }
                  ]
                : []
            }
          ]
        }
      ]
    }
  };
}
const send = async (...list: Made[]): Promise<void> => {
  const parts = list.map(made);
  await sendRequests(writer, [...parts.map(({ gateway }) => gateway), ...parts.map(({ berths }) => berths)]);
};
const taken = (n: number): string => `berth ${n} is taken until 06:${10 + n}`;
const figures = async (): Promise<(string | number)[][]> =>
  (await failuresOf(scope, window, NOW)).groups.map((group) => [
    group.type || group.message,
    group.times,
    group.requests,
    group.starts,
    group.seen,
    group.people
  ]);

beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-failures-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  writer = await openWriter(url);
  const failing = Array.from({ length: 12 }, (_, i): Made => ({
    trace: i + 1,
    minutesAgo: 3 + (i % 4),
    user: `user-${i % 5}`,
    error: taken(i),
    seen: i % 3 > 0,
    window: 'past'
  }));
  const fine = Array.from({ length: 40 }, (_, i): Made => ({
    trace: 100 + i,
    minutesAgo: 5,
    user: `user-${i}`,
    window: 'future'
  }));
  await send(...failing, ...fine);
});
afterAll(async () => {
  await writer.close();
  await rm(folder, { recursive: true, force: true });
});

const GROUPS = [
  ['BerthTaken', 12, 12, 12, 8, 5],
  ['409 from berths', 12, 12, 0, 8, 5]
];

it('counts failures by group: where they start, what passes them on, who saw them', async () => {
  expect((await figures()).sort((a, b) => Number(b[3]) - Number(a[3]))).toEqual(GROUPS);
  const [group] = (await failuresOf(scope, window, NOW)).groups.filter(({ starts }) => starts > 0);
  expect(group).toMatchObject({
    message: 'berth ? is taken until ?',
    function: 'reserve',
    file: 'berths/plan.ts'
  });
  expect(group.series.reduce((sum, count) => sum + count, 0)).toBe(12);
  expect([group.firstMs, group.lastMs]).toEqual([NOW - 6 * MINUTE, NOW - 3 * MINUTE]);
});

it('tells of one its ways, what sets its requests apart, what came before, and what occurs with it', async () => {
  const [{ id }] = (await failuresOf(scope, window, NOW)).groups.filter(({ starts }) => starts > 0);
  const detail = (await failureOf(scope, window, NOW, id, 0))!;
  expect(
    detail.ways.map(({ stations, times, seen }) => [
      stations.map(({ service, label }) => `${service} ${label}`),
      times,
      seen
    ])
  ).toEqual([
    [['berths BerthTaken', 'gateway 502 POST /calls/:id/berth'], 8, 8],
    [['berths BerthTaken', 'gateway 409 from berths'], 4, 0]
  ]);
  expect(detail.withIt.map(({ identity, traces }) => [identity.message, traces])).toEqual([
    ['409 from berths', 12]
  ]);
  expect(detail.example?.exception?.stack).toContain('plan.ts:41');
  expect(detail.example?.beforeOf).toBe('person');
  expect(detail.example?.before.some(({ words }) => words === 'gateway: POST /calls/:id/berth')).toBe(true);
  const other = (await failuresOf(scope, window, NOW)).groups.find(({ starts }) => starts === 0)!;
  const passing = (await failureOf(scope, window, NOW, other.id, 0))!;
  expect(passing.startsAs.map(({ identity }) => identity.type)).toEqual(['BerthTaken']);
  expect(passing.apart.rows.map(({ name, value }) => `${name} ${value}`)).toContain('window past');
  // Its requests are picked by it, and by nothing else.
  const picked = await requestsOf(
    { ...scope, failure: id },
    { sort: 'duration', groupBy: '', columns: [] },
    NOW
  );
  expect(picked.count).toBe(12);
});

it('narrows to a service, and to none', async () => {
  const berths = await failuresOf(scopeFrom(new URLSearchParams({ service: 'berths' })), window, NOW);
  expect(berths.groups.map(({ type }) => type)).toEqual(['BerthTaken']);
  expect((await failuresOf(scopeFrom(new URLSearchParams({ service: 'tides' })), window, NOW)).count).toBe(0);
});

it('counts the same once that comes twice, and what comes late as what it turns out to be', async () => {
  await send({ trace: 1, minutesAgo: 3, user: 'user-0', error: taken(0), seen: false, window: 'past' });
  expect((await figures()).sort((a, b) => Number(b[3]) - Number(a[3]))).toEqual(GROUPS);
  // The gateway's spans alone: it is thought to start there, until those of berths come.
  const late = made({ trace: 900, minutesAgo: 2, error: taken(7) });
  await sendRequests(writer, [late.gateway]);
  const starts = async (): Promise<[string, number][]> =>
    (await failuresOf(scope, window, NOW)).groups.map(({ type, message, starts: n }) => [type || message, n]);
  expect(new Map(await starts()).get('409 from berths')).toBe(1);
  await sendRequests(writer, [late.berths]);
  expect(new Map(await starts())).toEqual(
    new Map([
      ['BerthTaken', 13],
      ['409 from berths', 0]
    ])
  );
});

it('takes merged groups as one, with all that is told of them, and parts them again', async () => {
  const all = async () => (await failuresOf(scope, window, NOW)).groups;
  const [from, into] = ['409 from berths', 'BerthTaken'].map(
    (name) => async () => (await all()).find((group) => (group.type || group.message) === name)
  );
  const before = [(await from())!, (await into())!];
  await writer.change('mergeFailure', before[0].id, before[1].id);
  expect(await all()).toHaveLength(1);
  const merged = (await into())!;
  expect(merged.times).toBe(before[0].times + before[1].times);
  expect(merged.people).toBe(before[1].people);
  expect(merged.series.reduce((sum, count) => sum + count, 0)).toBe(merged.times);
  const detail = (await failureOf(scope, window, NOW, merged.id, 0))!;
  expect(detail.merged.map(({ identity }) => identity.message)).toEqual(['409 from berths']);
  expect(detail.withIt).toEqual([]);
  await writer.change('partFailure', before[0].id);
  expect((await from())!.times).toBe(before[0].times);
  expect((await into())!.times).toBe(before[1].times);
});

it('marks one as fixed in the next release; a release that came since and shows it brings it back, and undo opens it', async () => {
  const group = async () =>
    (await failuresOf(scope, window, NOW)).groups.find(({ type }) => type === 'BerthTaken')!;
  const { id } = await group();
  await writer.change('markFailure', id, 'fixed', '', 0);
  expect((await group()).state).toEqual({ state: 'fixed', since: '' });
  // It goes on in the release that has it: that is no return.
  await send({ trace: 2000, minutesAgo: -3, error: taken(3) });
  const later = (at: number) =>
    failuresOf(scope, { fromUs: window.fromUs, toUs: (NOW + at * MINUTE) * 1000 }, NOW + at * MINUTE);
  const stateAt = async (at: number) =>
    (await later(at)).groups.find(({ type }) => type === 'BerthTaken')!.state;
  expect(await stateAt(10)).toEqual({ state: 'fixed', since: '' });
  const [again] = [made({ trace: 2001, minutesAgo: -5, error: taken(4) })].map(({ gateway, berths }) =>
    [gateway, berths].map((part) => ({
      ...part,
      resource: resource(
        (part as { resource: { attributes: { value: { stringValue: string } }[] } }).resource.attributes[0]
          .value.stringValue,
        '7.4'
      )
    }))
  );
  await sendRequests(writer, again);
  expect(await stateAt(10)).toEqual({ state: 'back', since: '7.4' });
  await writer.change('unmarkFailure', id);
  expect((await stateAt(10)).state).toBe('open');
});
