import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { quantileSorted } from 'd3-array';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { scopeFrom, type Scope } from '$lib/scope';
import { MINUTE, openWriter, request, RETENTION, sendRequests, type Made } from '$lib/testing/sent-requests';

let folder: string;
let url: string;
vi.mock('../settings', () => ({
  settings: () => ({ databaseUrl: url, sourceFolders: [], retention: RETENTION })
}));
vi.mock('../workers', async () => (await import('$lib/testing/local-workers')).localWorkers(() => url));

const { valuesLike, attributeNames } = await import('./attributes');
const { callGroupOf } = await import('./calls/call-group');
const { callsOf } = await import('./calls/calls');
const { endpointOf } = await import('./endpoint');
const { previewOf } = await import('./keep');
const { requestsOf } = await import('./requests');
const { latency, totalIn } = await import('./rollups');

const NOW = Date.now() - (Date.now() % 3_600_000) + 1_800_000;
const DAY = 1440 * MINUTE;
const scope = (query = ''): Scope => scopeFrom(new URLSearchParams(query));

/** Requests of known times: three hosts of which one is slow, a zone that goes with slow requests, and four weeks behind. */
const made: Made[] = [];
let seed = 7;
const random = (): number => {
  seed = (seed * 1_664_525 + 1_013_904_223) % 4_294_967_296;
  return seed / 4_294_967_296;
};
for (let i = 0; i < 300; i++) {
  const host = `quay-${i % 3}`;
  const north = i % 10 === 0;
  made.push({
    trace: 1000 + i,
    at: NOW - (2 + (i % 25)) * MINUTE + i,
    ms: Math.round((host === 'quay-2' ? 240 : 80) * (north ? 4 : 1) * (0.9 + random() / 5) * 1000) / 1000,
    host,
    zone: north ? 'north' : i % 2 === 0 ? 'south' : 'east',
    queries: 4
  });
}
for (let i = 0; i < 200; i++)
  made.push({
    trace: 2000 + i,
    at: NOW - DAY - Math.floor(random() * 27 * DAY),
    ms: Math.round(Math.exp(2 + random() * 5) * 1000) / 1000,
    route: '/tides'
  });

beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-narrowing-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  const writer = await openWriter(url);
  await sendRequests(writer, made.map(request));
  await writer.close();
});
afterAll(() => rm(folder, { recursive: true, force: true }));

describe('percentiles over roll-ups', () => {
  // The definition: within 1 % of exact. A percentile lies between two of the values; d3-array's `quantileSorted` gives both.
  it.each(['last=15m', 'last=1h', 'last=24h', 'last=7d', 'last=30d', 'last=90d'])(
    'are within 1 %% of exact over %s, at whatever step they are read',
    async (query) => {
      const one = scope(query);
      const minutes = { '15m': 15, '1h': 60, '24h': 1440, '7d': 10_080, '30d': 43_200, '90d': 129_600 }[
        one.last as '1h'
      ];
      const window = { fromUs: (NOW - minutes * MINUTE) * 1000, toUs: NOW * 1000 };
      const totals = await totalIn(one, window, NOW);
      const exact = made
        .filter(({ at }) => Math.floor(at / MINUTE) >= Math.floor((NOW - minutes * MINUTE) / MINUTE))
        .map(({ ms }) => ms * 1e6)
        .sort((a, b) => a - b);
      // Windows that reach back behind the minutes kept begin at a whole bin: a few more may lie in it.
      expect(totals.count).toBeGreaterThanOrEqual(exact.length);
      if (totals.count !== exact.length) return expect(minutes).toBeGreaterThan(1440);
      for (const p of [0.5, 0.9, 0.95, 0.99]) {
        const [found] = latency(totals, [p]);
        const rank = p * (exact.length - 1);
        const below = quantileSorted(exact, Math.floor(rank) / (exact.length - 1))!;
        const above = quantileSorted(exact, Math.ceil(rank) / (exact.length - 1))!;
        expect(found).toBeGreaterThanOrEqual(below * 0.99);
        expect(found).toBeLessThanOrEqual(above * 1.01);
      }
    }
  );
  it('count every request of three months, however coarse the step', async () => {
    const window = { fromUs: (NOW - 90 * DAY) * 1000, toUs: NOW * 1000 };
    expect((await totalIn(scope('last=90d'), window, NOW)).count).toBe(made.length);
  });
});

describe('endpointOf', () => {
  const page = () => endpointOf(scope('endpoint=GET+/plan'), 'tenth', NOW);
  it('has every request once in the heat map, in the zones, and on the hosts', async () => {
    const found = (await page())!;
    expect(found).toMatchObject({ service: 'berths', endpoint: 'GET /plan', count: 300, kept: 300 });
    expect(found.heat.reduce((sum, { count }) => sum + count, 0)).toBe(300);
    expect(found.histogram.reduce((sum, [, count]) => sum + count, 0)).toBe(300);
    expect(found.hosts.reduce((sum, { count }) => sum + count, 0)).toBe(300);
    const { satisfied, tolerating, frustrated } = found.zones;
    expect(satisfied + tolerating + frustrated).toBe(300);
    // Nine hundred and more milliseconds: the north on the slow host.
    expect(tolerating).toBe(made.filter(({ ms, route }) => route === undefined && ms > 500).length);
  });
  it('names the slow host with a test behind it, and nothing of the others', async () => {
    const { hosts } = (await page())!;
    expect(hosts.map(({ name, change }) => [name, change.verdict])).toEqual([
      ['quay-2', 'slower'],
      [expect.any(String), 'faster'],
      [expect.any(String), 'faster']
    ]);
    expect(hosts[0].change.ratio).toBeGreaterThan(2);
  });
  it('finds the planted attribute and the planted host among what sets slow requests apart', async () => {
    const { lift } = (await page())!;
    expect(lift.slow).toBe(30);
    const north = lift.rows.find(({ name, value }) => name === 'berth.zone' && value === 'north')!;
    const slowNorth = made
      .filter(({ route }) => route === undefined)
      .sort((a, b) => b.ms - a.ms)
      .slice(0, 30)
      .filter(({ zone }) => zone === 'north').length;
    expect(north.slow).toBe(slowNorth);
    expect(north.slowShare).toBeCloseTo(slowNorth / 30, 9);
    expect(lift.rows.map(({ value }) => value)).not.toContain('south');
    expect(lift.rows.map(({ name }) => name)).not.toContain('http.route');
  });
  it('tells per request from per call, and offers requests to open', async () => {
    const { breakdown, samples } = (await page())!;
    const query = breakdown.find(({ kind }) => kind === 'database')!;
    expect(query).toMatchObject({
      callsPerRequest: 4,
      nsPerCall: 8e6,
      nsPerRequest: 32e6,
      mostCalls: 4,
      calls: 1200
    });
    expect(breakdown.reduce((sum, { share }) => sum + share, 0)).toBeCloseTo(1, 9);
    const slowest = made.filter(({ route }) => route === undefined).sort((a, b) => b.ms - a.ms)[0];
    expect(samples[0]).toMatchObject({ what: 'slowest', durationNs: slowest.ms * 1e6 });
    expect(samples.map(({ what }) => what)).toContain('typical');
  });
  it('is null for an endpoint nobody knows', async () => {
    expect(await endpointOf(scope('endpoint=GET+/nowhere'), 't', NOW)).toBeNull();
  });
});

describe('callsOf and callGroupOf', () => {
  const choice = { rows: 'statement' as const, kind: '', origin: undefined };
  it('rank calls by statement, endpoint and service alike', async () => {
    const { rows, all, series } = await callsOf(scope(), choice, NOW);
    expect(all).toEqual({ calls: 1200, totalNs: 1200 * 8e6, groups: 1 });
    expect(rows[0]).toMatchObject({
      name: 'select * from line where id = ?',
      detail: 'database',
      share: 1,
      mostCalls: 4
    });
    expect(series.reduce((sum, { calls }) => sum + calls, 0)).toBe(1200);
    const byEndpoint = await callsOf(scope(), { ...choice, rows: 'endpoint' }, NOW);
    expect(byEndpoint.rows).toMatchObject([{ name: 'GET /plan', detail: 'berths', calls: 1200 }]);
    expect((await callsOf(scope(), { ...choice, kind: 'http' }, NOW)).rows).toEqual([]);
  });
  it('tell who asks, how long it takes, and which requests to open', async () => {
    const [{ id }] = (await callsOf(scope(), choice, NOW)).rows;
    const page = (await callGroupOf(scope(), id, NOW))!;
    expect(page.totals).toMatchObject({ calls: 1200, requests: 300, failed: 0, slowestNs: 8e6, onRound: 0 });
    expect(page.endpoints).toMatchObject([{ name: 'GET /plan', service: 'berths', share: 1 }]);
    expect(page.histogram.reduce((sum, [, calls]) => sum + calls, 0)).toBe(1200);
    expect(page.samples.map(({ what }) => what)).toEqual(['most calls', 'most time', 'typical']);
    expect(await callGroupOf(scope(), 99_999, NOW)).toBeNull();
    expect((await callGroupOf(scope('host=nowhere'), id, NOW))!.totals.calls).toBe(0);
  });
});

describe('conditions on attributes', () => {
  const inHour = made.filter(({ at }) => at >= NOW - 60 * MINUTE);
  const has =
    (holds: (zone: string) => boolean) =>
    ({ zone = '' }: Made): boolean =>
      holds(zone);
  it.each<[string, (zone: string) => boolean]>([
    ['attr=berth.zone=north', (zone) => zone === 'north'],
    ['attr=berth.zone!=north', (zone) => zone !== 'north'],
    ['attr=berth.zone!=north&attr=berth.zone!=east', (zone) => zone !== 'north' && zone !== 'east'],
    ['attr=berth.zone~=TH', (zone) => zone.includes('th')],
    ['attr=berth.zone!~=th', (zone) => !zone.includes('th')],
    ['attr=berth.zone^=s', (zone) => zone.startsWith('s')],
    ['attr=berth.zone^=th', () => false],
    ['attr=berth.zone!^=s', (zone) => !zone.startsWith('s')],
    ['attr=berth.zone~=%', () => false],
    ['attr=no.such!=north', () => true]
  ])('%s', async (query, holds) => {
    const list = await requestsOf(
      scope(`last=1h&${query}`),
      { sort: 'duration', groupBy: '', columns: [] },
      NOW
    );
    expect(list.count).toBe(inHour.filter(has(holds)).length);
  });
});

describe('requests by attribute', () => {
  it('are counted by value with exact percentiles', async () => {
    const list = await requestsOf(
      scope('endpoint=GET+/plan'),
      { sort: 'duration', groupBy: 'attr:berth.zone', columns: ['berth.zone'] },
      NOW
    );
    expect(Object.fromEntries(list.groups!.map(({ value, count }) => [value, count]))).toEqual({
      north: 30,
      south: 120,
      east: 150
    });
    const north = made
      .filter(({ zone }) => zone === 'north')
      .map(({ ms }) => ms * 1e6)
      .sort((a, b) => a - b);
    expect(list.groups!.find(({ value }) => value === 'north')!.p95Ns).toBeCloseTo(
      quantileSorted(north, 0.95)!,
      3
    );
    expect(list.rows[0].attributes).toEqual(['north']);
  });
  it('can be chosen from', async () => {
    expect((await attributeNames()).map(({ name }) => name)).toContain('berth.zone');
    expect(await valuesLike('berth.zone', 's')).toEqual([{ value: 'south' }]);
    expect(await valuesLike('berth.zone', '%')).toEqual([]);
  });
});

describe('previewOf', () => {
  it('says exactly what rules would have kept of the last hour', async () => {
    const slow = made.filter(({ ms, route }) => route === undefined && ms > 300).length;
    expect(await previewOf([{ when: 'slower', ms: 300 }], NOW)).toEqual({
      kept: slow,
      of: 300,
      byRule: [slow],
      counted: 300
    });
    const north = await previewOf(
      [
        { when: 'attribute', name: 'berth.zone', value: 'north' },
        { when: 'host', host: 'quay-0' }
      ],
      NOW
    );
    expect(north).toMatchObject({ byRule: [30, 100], kept: 120 });
  });
});
