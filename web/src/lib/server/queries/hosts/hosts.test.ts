import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { decodeMetricsJson } from '@tromix/core/formats/otlp/metrics';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { scopeFrom, scopeWindow, type Scope } from '$lib/scope';
import { MINUTE, openWriter, request, RETENTION, sendRequests } from '$lib/testing/sent-requests';
import type { Writer } from '../../ingest/writer';

let folder: string;
let url: string;
let writer: Writer;
vi.mock('../../settings', () => ({
  settings: () => ({ databaseUrl: url, sourceFolders: [], retention: RETENTION })
}));
vi.mock('../../workers', async () => (await import('$lib/testing/local-workers')).localWorkers(() => url));
const { stripsOf } = await import('./hosts');
const { hostOf } = await import('./one/one-host');
const { counterLines, counterNames } = await import('./any-counter');
const { meanwhileOf } = await import('./meanwhile');
const { countersBeside } = await import('./beside');
const { healthBy } = await import('./health');
const { oddHost } = await import('./odd-host');
const { memoryIn } = await import('./process-memory');

const NOW = Math.floor(Date.now() / MINUTE) * MINUTE;
const BEGIN = NOW - 30 * MINUTE;
const scopeOf = (query: Record<string, string> = {}): Scope =>
  scopeFrom(new URLSearchParams({ last: '30m', ...query }));
const window = scopeWindow(scopeOf(), NOW);

const pairs = (of: Record<string, string | number>): object[] =>
  Object.entries(of).map(([key, value]) => ({
    key,
    value: typeof value === 'number' ? { intValue: String(value) } : { stringValue: value }
  }));
/** A point every 10 seconds of the last half hour. */
const dataPoints = (value: (second: number) => number, attributes: Record<string, string>): object[] =>
  Array.from({ length: 180 }, (_, i) => ({
    timeUnixNano: `${BEGIN + i * 10_000}000000`,
    asDouble: value(i * 10),
    attributes: pairs(attributes)
  }));
const gauge = (name: string, value: (second: number) => number, attributes = {}): object => ({
  name,
  gauge: { dataPoints: dataPoints(value, attributes) }
});
const sum = (name: string, perSecond: (second: number) => number, attributes = {}): object => {
  let total = 0;
  const value = (second: number): number => (total += perSecond(second) * 10);
  return {
    name,
    sum: { aggregationTemporality: 2, isMonotonic: true, dataPoints: dataPoints(value, attributes) }
  };
};
const histogram = (name: string, unit: string, points: object[]): object => ({
  name,
  unit,
  histogram: { aggregationTemporality: 2, dataPoints: points }
});
/** Collections that took so many seconds in every ten. */
const collections = (took: (second: number) => number): object => {
  let [count, total] = [0, 0];
  return histogram(
    'v8js.gc.duration',
    's',
    Array.from({ length: 180 }, (_, i) => ({
      startTimeUnixNano: `${BEGIN - 10_000}000000`,
      timeUnixNano: `${BEGIN + i * 10_000}000000`,
      count: (count += 2),
      sum: (total += took(i * 10)),
      explicitBounds: [0.1],
      bucketCounts: [count, 0],
      attributes: pairs({ 'v8js.gc.type': 'major' })
    }))
  );
};
/** Five connections are taken in every ten seconds: at once, or after 0.2 s where somebody waits. */
const waits = (isBusy: (second: number) => boolean): object => {
  const counts = [0, 0];
  let total = 0;
  return histogram(
    'db.client.connection.wait_time',
    's',
    Array.from({ length: 180 }, (_, i) => {
      const busy = isBusy(i * 10);
      counts[busy ? 1 : 0] += 5;
      total += busy ? 1 : 0;
      return {
        startTimeUnixNano: `${BEGIN - 10_000}000000`,
        timeUnixNano: `${BEGIN + i * 10_000}000000`,
        count: counts[0] + counts[1],
        sum: total,
        explicitBounds: [0.1, 0.3],
        bucketCounts: [...counts, 0],
        attributes: pairs({ 'db.client.connection.pool.name': 'plans' })
      };
    })
  );
};
const told = (resource: Record<string, string | number>, metrics: object[]): object => ({
  resource: { attributes: pairs(resource) },
  scopeMetrics: [{ metrics }]
});
/** The neighbour works from the tenth to the nineteenth minute. */
const works = (second: number): boolean => second >= 600 && second < 1140;
const hostTold = (host: string, cores: (second: number) => number): object =>
  told({ 'host.name': host }, [
    sum('system.cpu.time', cores, { 'cpu.mode': 'user' }),
    sum('system.cpu.time', (second) => 2 - cores(second), { 'cpu.mode': 'idle' }),
    gauge('system.cpu.logical.count', () => 2)
  ]);
const processTold = (
  host: string,
  pid: number,
  name: string,
  cores: (second: number) => number,
  waits: number
): object =>
  told({ 'host.name': host, 'process.pid': pid, 'process.executable.name': name, 'process.owner': 'ops' }, [
    sum('process.cpu.time', cores, { 'cpu.mode': 'user' }),
    sum('tromix.process.core_wait.time', () => waits),
    gauge('process.memory.usage', () => 1e6 * pid)
  ]);

beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-hosts-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  writer = await openWriter(url);
  const requests = Array.from({ length: 60 }, (_, i) =>
    request({
      trace: i + 1,
      at: BEGIN + 11 * MINUTE + i * 1000,
      ms: i % 2 === 0 ? 100 : 310,
      host: i % 2 === 0 ? 'quay-1' : 'quay-2'
    })
  );
  await sendRequests(writer, requests);
  const resourceMetrics = [
    hostTold('quay-1', () => 0.24),
    hostTold('quay-2', (second) => (works(second) ? 1.94 : 0.3)),
    hostTold('quay-3', () => 0.62),
    processTold('quay-2', 8810, 'tide-replay', (second) => (works(second) ? 1.66 : 0), 0.1),
    processTold('quay-2', 7, 'node', () => 0.27, 0.38),
    told({ 'host.name': 'quay-2', 'process.pid': 7, 'service.name': 'berths', 'service.version': '7.2' }, [
      gauge('nodejs.eventloop.delay.p99', (second) => (works(second) ? 0.3 : 0.012)),
      gauge('v8js.memory.heap.used', () => 5e7),
      gauge('db.client.connection.pending_requests', (second) => (works(second) ? 4 : 0), {
        'db.client.connection.pool.name': 'plans'
      }),
      gauge('db.client.connection.count', () => 10, {
        'db.client.connection.pool.name': 'plans',
        'db.client.connection.state': 'used'
      }),
      gauge('db.client.connection.max', () => 10, { 'db.client.connection.pool.name': 'plans' }),
      // As OpenTelemetry's runtime metrics of Node.js have it: what collections took adds up.
      collections((second) => (works(second) ? 0.8 : 0.05)),
      waits((second) => works(second)),
      gauge('executor.active', () => 3, { name: 'plans of tides' }),
      gauge('executor.pool.max', () => 8, { name: 'plans of tides' }),
      gauge('executor.queued', () => 0, { name: 'plans of tides' })
    ])
  ];
  await writer.addCounters(decodeMetricsJson(JSON.stringify({ resourceMetrics })), NOW);
});
afterAll(async () => {
  await writer.close();
  await rm(folder, { recursive: true, force: true });
});

describe('strips', () => {
  it('are a row a host, and find the one that stands clear of the others', async () => {
    const { rows, odd, stepMs, fromMs } = await stripsOf(scopeOf(), window, 'hosts');
    expect(rows.map(({ name, about }) => [name, about])).toEqual([
      ['quay-1', 'berths'],
      ['quay-2', 'berths'],
      ['quay-3', '']
    ]);
    expect(rows[1].lines.loop).not.toBeNull();
    expect(rows[0].lines.loop).toBeNull();
    const [first] = odd;
    expect(first).toMatchObject({ row: 1, measure: 'cpu' });
    expect(first.level).toBeCloseTo(0.97, 1);
    expect(first.others[0]).toBeCloseTo(0.12, 2);
    expect(first.others[1]).toBeCloseTo(0.31, 2);
    expect(Math.abs(fromMs + first.from * stepMs - (BEGIN + 10 * MINUTE))).toBeLessThanOrEqual(2 * stepMs);
  });

  it('are of the services and processes too; what a host says of a process is counted once', async () => {
    const services = await stripsOf(scopeOf(), window, 'services');
    expect(services.rows.map(({ name }) => name)).toContain('berths');
    const { rows } = await stripsOf(scopeOf(), window, 'processes');
    expect(rows.map(({ name, about }) => [name, about])).toEqual([
      ['tide-replay', 'quay-2 · pid 8810'],
      ['berths', 'quay-2 · pid 7 · node']
    ]);
  });

  it('keep to the host and the service of the scope', async () => {
    const of = async (query: Record<string, string>): Promise<string[]> =>
      (await stripsOf(scopeOf(query), window, 'hosts')).rows.map(({ name }) => name);
    expect(await of({ host: 'quay-3' })).toEqual(['quay-3']);
    expect(await of({ host: '!quay-3' })).toEqual(['quay-1', 'quay-2']);
    // It sent requests from both, and counters from one.
    expect(await of({ service: 'berths' })).toEqual(['quay-1', 'quay-2']);
    expect(await of({ service: 'tides' })).toEqual([]);
  });
});

describe('one host', () => {
  it('says what used its cores, who serves, who waits, and which requests got slower', async () => {
    const host = await hostOf(scopeOf(), window, NOW, 'quay-2');
    expect(host.cores).toBe(2);
    const [neighbour, own] = host.processes;
    expect(neighbour).toMatchObject({ name: 'tide-replay', pid: 8810, service: '', owner: 'ops' });
    // Nine of thirty minutes: of all the time it used so much less.
    expect(neighbour.cores).toBeCloseTo((1.66 * 540) / 1790, 1);
    expect(own).toMatchObject({ pid: 7, service: 'berths', release: '7.2' });
    expect(own.waits).toBeCloseTo(0.38, 2);
    expect(host.slower).toEqual([{ service: 'berths', ratio: expect.closeTo(3.1, 1), requests: 30 }]);
    expect(host.findings.map(({ rule }) => rule)).toEqual([
      'neighbour-takes-cpu',
      'waits-for-core',
      'pool-waits',
      'event-loop-held'
    ]);
    // While it worked, not on the average of the window.
    expect(host.findings[0].figures.cores).toBeCloseTo(1.66, 1);
    expect(host.findings[0].figures.ratio).toBeCloseTo(3.1, 1);
    expect(host.pools).toMatchObject([
      { name: 'plans', of: 'connections', service: 'berths', size: 10 },
      { name: 'plans of tides', of: 'threads', service: 'berths', size: 8 }
    ]);
    // Of those that came while somebody waited: over all the time the median took none.
    expect(host.pools[0].waitedS).toBeCloseTo(0.2, 1);
  });

  it('without counters says nothing', async () => {
    const host = await hostOf(scopeOf(), window, NOW, 'quay-9');
    expect(host).toMatchObject({ cores: null, processes: [], pools: [], findings: [] });
  });
});

it('what hosts and processes told around a moment', async () => {
  const at = BEGIN + 12 * MINUTE;
  const [here, elsewhere] = await meanwhileOf(
    [
      { host: 'quay-2', pid: 7, service: 'berths' },
      { host: 'quay-1', pid: 3, service: 'berths' }
    ],
    { fromMs: at, toMs: at + 300 }
  );
  expect(here.cpu).toBeCloseTo(0.97, 2);
  expect(here.waits).toBeCloseTo(0.38, 2);
  expect(here).toMatchObject({ loop: 0.3, waiting: 4, disk: null });
  expect(here.pauses).toBeCloseTo(0.08, 5);
  expect(here.waitedS).toBeCloseTo(0.2, 5);
  expect(elsewhere.cpu).toBeCloseTo(0.12, 2);
  expect(elsewhere).toMatchObject({ waits: null, loop: null, waiting: null });
});

it('collections of a runtime, told as durations, are a share of the time', async () => {
  const { rows } = await stripsOf(scopeOf(), window, 'services');
  const berths = rows.find(({ name }) => name === 'berths')!;
  const atMinute = (minute: number): number => berths.lines.pauses![Math.floor((minute * 60) / 20)]!;
  expect(atMinute(12)).toBeCloseTo(0.08, 5);
  expect(atMinute(25)).toBeCloseTo(0.005, 5);
});

it('how requests of a host fare is told by the same endpoints in as long a time before', async () => {
  const hosts = await healthBy(scopeOf(), window, NOW, 'host');
  expect([...hosts].map(([name, { requests }]) => [name, requests])).toEqual([
    ['quay-1', 30],
    ['quay-2', 30]
  ]);
  expect(hosts.get('quay-2')!.change.verdict).toBe('too few');
  const services = await healthBy(scopeOf(), window, NOW, 'service');
  expect(services.get('berths')!.perMinute).toBeCloseTo(60 / 19, 0);
});

it('what processes and hosts told lies on the axis of a picture, however short that is', async () => {
  const at = BEGIN + 12 * MINUTE + 3000;
  const { fromMs, stepMs, lines } = await countersBeside([{ host: 'quay-2', pid: 7, service: 'berths' }], {
    fromMs: at,
    toMs: at + 40
  });
  expect(fromMs).toBeLessThanOrEqual(at);
  expect(fromMs + stepMs).toBeGreaterThanOrEqual(at + 40);
  const of = (who: string, measure: string) =>
    lines.find((one) => one.who === who && one.measure === measure)?.line;
  expect(of('quay-2', 'cpu')![0]).toBeCloseTo(0.97, 2);
  expect(of('berths on quay-2', 'loop')).toEqual([0.3]);
  expect(of('quay-2', 'loop')).toBeUndefined();
});

it('an odd host says in what its counters stand clear of the others', async () => {
  const odd = await oddHost(scopeOf(), window, 'quay-2');
  expect(odd).toMatchObject({ tells: true, othersTell: true });
  expect(odd.strips.odd[0].measure).toBe('cpu');
  expect((await oddHost(scopeOf(), window, 'quay-1')).strips.odd).toEqual([]);
  expect(await oddHost(scopeOf(), window, 'quay-9')).toMatchObject({ tells: false });
});

describe('any counter', () => {
  it('of a host can be named and drawn, told apart by what differs', async () => {
    const { fromUs, toUs } = window;
    const names = await counterNames('quay-2', fromUs / 1000);
    expect(names).toContainEqual({ name: 'process.memory.usage', unit: '', kind: 'gauge', series: 2 });
    expect(names.map(({ name }) => name)).toContain('v8js.memory.heap.used');
    const times = { fromMs: fromUs / 1000, toMs: toUs / 1000 };
    const memory = await counterLines('quay-2', 'process.memory.usage', times);
    expect(memory.lines.map(({ label }) => label)).toEqual(['tide-replay pid 8810', 'node pid 7']);
    expect(Math.max(...memory.lines[0].line.map((value) => value ?? 0))).toBe(8_810_000_000);
    const cpu = await counterLines('quay-2', 'system.cpu.time', times);
    expect(cpu.lines.map(({ label, isRate }) => [label, isRate])).toEqual([
      ['user', true],
      ['idle', true]
    ]);
    expect((await counterLines('quay-2', 'unheard.of', times)).lines).toEqual([]);
  });

  it('that is a histogram is drawn as its quantiles and how often it was measured', async () => {
    const at = (i: number): string => `${BEGIN + i * 10_000}000000`;
    const points = Array.from({ length: 180 }, (_, i) => ({
      startTimeUnixNano: at(i),
      timeUnixNano: at(i + 1),
      count: 20,
      sum: 10,
      explicitBounds: [1, 2],
      bucketCounts: [10, 10, 0]
    }));
    const metric = {
      name: 'tides.took',
      unit: 's',
      histogram: { aggregationTemporality: 1, dataPoints: points }
    };
    const resourceMetrics = [told({ 'host.name': 'quay-5' }, [metric])];
    await writer.addCounters(decodeMetricsJson(JSON.stringify({ resourceMetrics })), NOW);
    const { lines } = await counterLines('quay-5', 'tides.took', { fromMs: BEGIN, toMs: NOW });
    const of = (label: string): number | null => lines.find((one) => one.label.endsWith(label))!.line[30];
    expect(of('median')).toBe(1);
    expect(of('p95')).toBeCloseTo(1.9, 12);
    expect(of('how often')).toBeCloseTo(2, 12);
  });
});

it('the memory of a scope is that of what serves there: what else runs on a host is not in it', async () => {
  const most = async (query: Record<string, string>): Promise<number> =>
    Math.max(0, ...(await memoryIn(scopeOf(query), window, 1)).map(({ bytes }) => bytes));
  // Of the process itself and its heap the whole process counts.
  expect(await most({})).toBe(7e6);
  expect(await most({ service: 'berths' })).toBe(7e6);
  expect(await most({ host: 'quay-1' })).toBe(0);
});
