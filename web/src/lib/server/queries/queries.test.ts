import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { scopeFrom, type Scope } from '$lib/scope';
import { MINUTE, openWriter, request, RETENTION, sendRequests } from '$lib/testing/sent-requests';
import { openDatabase } from '../db/client';
import type { Sort } from '$lib/request-choices';
import type { RequestChoice } from './requests';

let folder: string;
let url: string;
// The reader of the tests looks at their own database; nothing starts a thread.
vi.mock('../settings', () => ({
  settings: () => ({
    databaseUrl: url,
    sourceFolders: [],
    retention: RETENTION,
    maxTraceSpans: 1000
  })
}));
vi.mock('../workers', async () => (await import('$lib/testing/local-workers')).localWorkers(() => url));

const { overviewOf } = await import('./overview');
const { requestsOf } = await import('./requests');
const { requestOf } = await import('./request');
const { railOf } = await import('./rail');
const { countsOf } = await import('./counts');
const { namesOf } = await import('./names');
const { evidenceItem, evidenceOf } = await import('./evidence');
const { findNames } = await import('./palette');

/** Thirty minutes past a whole hour, so that minutes are easy to count. */
const NOW = 1_700_001_000_000 - (1_700_001_000_000 % 3_600_000) + 1_800_000;
beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-queries-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  const writer = await openWriter(url);
  const resourceSpans: object[] = [];
  // Release 7.2: thirty requests of 100 ms. Release 7.3, from ten minutes ago: thirty of 200 ms that ask in a loop.
  for (let i = 0; i < 30; i++)
    resourceSpans.push(request({ trace: 100 + i, at: NOW - 20 * MINUTE + i * 1000, ms: 100, queries: 1 }));
  for (let i = 0; i < 30; i++) {
    resourceSpans.push(
      request({
        trace: 200 + i,
        at: NOW - 10 * MINUTE + (i === 0 ? 0 : MINUTE + i * 1000),
        ms: 200,
        release: '7.3',
        queries: 12,
        host: i < 5 ? 'quay-9' : 'quay-2'
      })
    );
  }
  resourceSpans.push(
    request({ trace: 400, at: NOW - 5 * MINUTE, ms: 3000, failed: true, route: '/export', release: '7.3' })
  );
  await sendRequests(writer, resourceSpans);
  const label = {
    format: 'v8-cpu-profile',
    bytes: 10,
    release: '7.3',
    receivedAtUs: NOW * 1000,
    summary: JSON.stringify({ samples: 5, busyNs: 1, idleNs: 2, warnings: [] })
  };
  await writer.addEvidence({
    ...label,
    id: 'e'.repeat(64),
    kind: 'profile',
    name: 'cpu one',
    service: 'berths',
    host: 'quay-2',
    pid: 0,
    startedAtUs: (NOW - 9 * MINUTE + 20_000) * 1000,
    durationNs: 2e9
  });
  await writer.close();
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const scope = (query = ''): Scope => scopeFrom(new URLSearchParams(query));

describe('overviewOf', () => {
  it('ranks endpoints by time counted once, and says what a release changed', async () => {
    const overview = await overviewOf(scope(), NOW);
    expect(overview.rows.map(({ name }) => name)).toEqual(['GET /plan', 'GET /export']);
    const [plan] = overview.rows;
    expect(plan).toMatchObject({ service: 'berths', count: 60, failed: 0, totalNs: 9e9, exclusiveNs: 9e9 });
    expect(plan.share).toBeCloseTo(9 / 12, 6);
    expect(plan.change).toMatchObject({ verdict: 'slower' });
    expect(plan.change.ratio).toBeCloseTo(2, 1);
    expect(plan.change.p).toBeLessThan(1e-6);
    expect(plan.zones).toEqual({ satisfied: 60, tolerating: 0, frustrated: 0 });
    expect(overview.turn).toMatchObject({ kind: 'release', release: '7.3', service: 'berths' });
    expect(overview.before.count).toBe(30);
    expect(overview.growth.database).toBeGreaterThan(80e6);
    expect(overview.all).toMatchObject({ count: 61, exclusiveNs: 12e9 });
  });

  it('gathers alike findings, with an example that a profile covers', async () => {
    const { findings } = await overviewOf(scope(), NOW);
    const loop = findings.find(({ rule }) => rule === 'query-per-row')!;
    expect(loop).toMatchObject({
      requests: 30,
      endpoint: 'GET /plan',
      typicalCalls: 12,
      subject: 'select * from line where id = ?'
    });
    expect(loop.costNs).toBe(30 * 12 * 8e6);
    // The profile covers the requests of the seconds 20 and 21.
    expect([
      '00000000000000000000000000' + (220).toString(16).padStart(6, '0'),
      '00000000000000000000000000' + (221).toString(16).padStart(6, '0')
    ]).toContain(loop.example!.traceId);
  });

  it('obeys every part of the scope', async () => {
    const counts = async (query: string): Promise<number> => (await overviewOf(scope(query), NOW)).all.count;
    expect(await counts('host=quay-9')).toBe(5);
    expect(await counts('release=7.2')).toBe(30);
    expect(await counts('endpoint=GET+/export')).toBe(1);
    expect(await counts('service=tides')).toBe(0);
    expect(await counts('last=15m')).toBe(31);
    expect(await counts(`from=${NOW - 6 * MINUTE}&to=${NOW - 4 * MINUTE}`)).toBe(1);
  });
});

const chosen = (sort: Sort, groupBy = '', columns: string[] = []): RequestChoice => ({
  sort,
  groupBy,
  columns
});

describe('requestsOf', () => {
  it('lists what matches, with exact percentiles over all of it', async () => {
    const list = await requestsOf(scope(), chosen('duration'), NOW);
    expect(list).toMatchObject({ count: 61, failed: 1, p50Ns: 200e6 });
    expect(list.rows[0]).toMatchObject({ durationNs: 3e9, failed: true, endpoint: 'GET /export' });
    expect(list.apdex).toMatchObject({ satisfied: 60, tolerating: 0, frustrated: 1 });
    expect(list.rows[1].ledger.database).toBe(96e6);
  });

  it('sorts as asked and takes only what is slower than asked', async () => {
    const newest = await requestsOf(scope(), chosen('time'), NOW);
    expect(newest.rows.map(({ startUs }) => startUs)).toEqual(
      newest.rows.map(({ startUs }) => startUs).sort((a, b) => b - a)
    );
    expect((await requestsOf(scope('slower=150'), chosen('calls'), NOW)).count).toBe(31);
    expect((await requestsOf(scope('slower=5000'), chosen('findings'), NOW)).rows).toEqual([]);
  });
});

describe('requestOf', () => {
  it('gives the spans as stored, the profiles that cover it, and its neighbours', async () => {
    const list = await requestsOf(scope('release=7.3&endpoint=GET+/plan'), chosen('time'), NOW);
    const list72 = await requestsOf(scope('release=7.2&endpoint=GET+/plan'), chosen('time'), NOW);
    const row = list.rows.find(({ traceId }) => traceId.endsWith((220).toString(16)))!;
    const page = (await requestOf(scope(), row.traceId, row.spanId, NOW))!;
    expect(JSON.parse(new TextDecoder().decode(page.spans)).spanIds).toHaveLength(13);
    expect(page.resources).toHaveLength(1);
    expect(page.profiles.map(({ id }) => id)).toEqual(['e'.repeat(64)]);
    expect(page.same).toContainEqual({
      rule: 'query-per-row',
      subject: 'select * from line where id = ?',
      requests: 30,
      ofRequests: 60
    });
    // The middle one of those before release 7.3.
    const traceOf = (path: string | null): number => parseInt(path!.slice(0, 32), 16);
    expect(traceOf(page.normal)).toBeGreaterThanOrEqual(100);
    expect(traceOf(page.normal)).toBeLessThan(130);
    // Before release 7.2 there was nothing: of the 59 others 29 took 100 ms, so that the middle one took 200.
    const early = list72.rows[0];
    const other = (await requestOf(scope(), early.traceId, early.spanId, NOW))!.normal;
    expect(traceOf(other)).toBeGreaterThanOrEqual(200);
    const alone = (await requestsOf(scope('endpoint=GET+/export'), chosen('time'), NOW)).rows[0];
    expect((await requestOf(scope(), alone.traceId, alone.spanId, NOW))!.normal).toBeNull();
    expect(page.slower).toBeNull();
    expect(page.faster).toMatch(/^[0-9a-f]{32}\/[0-9a-f]{16}$/);
    expect(await requestOf(scope(), 'f'.repeat(32), 'f'.repeat(16), NOW)).toBeNull();
  });
});

describe('railOf', () => {
  it('counts requests a minute under the scope, flags a release that replaced another, and pins evidence', async () => {
    const rail = await railOf(scope(), NOW);
    expect(rail.points.reduce((sum, { count }) => sum + count, 0)).toBe(61);
    expect(rail.flags).toEqual([{ at: NOW - 10 * MINUTE, release: '7.3', service: 'berths' }]);
    expect(rail.pins).toMatchObject([{ kind: 'profile', id: 'e'.repeat(64) }]);
    expect((await railOf(scope('host=quay-9'), NOW)).points.reduce((sum, { count }) => sum + count, 0)).toBe(
      5
    );
  });
});

describe('names and evidence', () => {
  it('offers what there is to choose from', async () => {
    expect(await namesOf(scope())).toMatchObject({
      services: ['berths'],
      hosts: ['quay-2', 'quay-9'],
      releases: ['7.2', '7.3'],
      endpoints: [
        { service: 'berths', name: 'GET /export' },
        { service: 'berths', name: 'GET /plan' }
      ]
    });
    expect(await countsOf(scope(), NOW)).toMatchObject({ all: 1, threads: 0, heap: 0 });
  });

  it('lists evidence with what its reader found', async () => {
    expect(await evidenceOf('profile')).toMatchObject([
      { name: 'cpu one', summary: { samples: 5, sum: 1, unit: 'nanoseconds', warnings: [] } }
    ]);
    expect(await evidenceItem('f'.repeat(64))).toBeNull();
  });

  it('finds by a part of a name, and takes wildcards as the signs they are', async () => {
    expect((await findNames('expor')).map(({ label }) => label)).toEqual(['GET /export']);
    expect((await findNames('line where')).map(({ kind }) => kind)).toEqual(['call']);
    expect((await findNames('cpu')).map(({ kind }) => kind)).toEqual(['evidence']);
    expect(await findNames('%')).toEqual([]);
    expect(await findNames("' OR 1=1 --")).toEqual([]);
  });
});

it('opens a database in a folder that is not there yet', async () => {
  const client = openDatabase(`file:${path.join(folder, 'deep/er/x.sqlite')}`);
  expect((await client.execute('SELECT 1 AS one')).rows[0].one).toBe(1n);
  client.close();
});
