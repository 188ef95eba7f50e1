import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import * as v from 'valibot';
import { decodeMetricsJson } from '@tromix/core/formats/otlp/metrics';
import { load } from '@tromix/core/testing/page-load';
import { sketchQuantiles } from '@tromix/core/stats/sketch';
import { figureOf, valueIn } from '@tromix/core/watch/figures';
import { sumOver, type Cell } from '@tromix/core/watch/cell';
import { Watched } from '@tromix/core/watch/watched';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { MINUTE, openWriter, request, sendRequests, type Made } from '$lib/testing/sent-requests';
import { openDatabase } from '../../db/client';
import { LocalDatabase } from '../../db/database';
import type { Writer } from '../../ingest/writer';
import { readPlaceIds } from './place-ids';
import { readCells } from './read-cells';

const NOW = Math.floor(Date.now() / 3_600_000) * 3_600_000;
const BEGIN = NOW - 120 * MINUTE;
const FIRST = BEGIN / MINUTE;
const MINUTES = 20;

let folder: string;
let writer: Writer;
let database: LocalDatabase;

/** Requests of two hosts, two releases, two routes and two zones: some fail, some ask in a loop. */
const made: Made[] = Array.from({ length: 400 }, (_, i): Made => ({
  trace: i + 1,
  at: BEGIN + (i % MINUTES) * MINUTE + (i % 50) * 1000,
  ms: 50 + ((i * 37) % 400),
  host: i % 3 === 0 ? 'quay-3' : 'quay-2',
  release: i < 250 ? '7.2' : '7.3',
  route: i % 4 === 0 ? '/export' : '/plan',
  failed: i % 11 === 0,
  queries: i % 5 === 0 ? 6 : 1,
  zone: i % 2 === 0 ? 'north' : 'south'
}));
const route = ({ route: of }: Made): string => `GET ${of}`;

beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-cells-'));
  const url = `file:${path.join(folder, 'test.sqlite')}`;
  writer = await openWriter(url);
  await sendRequests(writer, made.map(request));
  const points = (value: (minute: number) => number, attributes: object[]): object[] =>
    Array.from({ length: MINUTES }, (_, minute) => ({
      timeUnixNano: `${BEGIN + minute * MINUTE + 30_000}000000`,
      asDouble: value(minute),
      attributes
    }));
  const resourceMetrics = [1, 2].map((pid) => ({
    resource: {
      attributes: [
        { key: 'service.name', value: { stringValue: 'berths' } },
        { key: 'host.name', value: { stringValue: 'quay-2' } },
        { key: 'process.pid', value: { intValue: String(pid) } }
      ]
    },
    scopeMetrics: [
      {
        metrics: [
          {
            name: 'quay.queue',
            unit: '{ship}',
            gauge: { dataPoints: points((minute) => pid * 10 + minute, []) }
          },
          {
            name: 'quay.moves',
            sum: {
              aggregationTemporality: 2,
              isMonotonic: true,
              dataPoints: points((minute) => pid * minute * 600, [])
            }
          }
        ]
      }
    ]
  }));
  const cpu = (mode: string, aMinute: number): object => ({
    name: 'system.cpu.time',
    unit: 's',
    sum: {
      aggregationTemporality: 2,
      isMonotonic: true,
      dataPoints: points((minute) => minute * aMinute, [{ key: 'cpu.mode', value: { stringValue: mode } }])
    }
  });
  const ofHost = {
    resource: { attributes: [{ key: 'host.name', value: { stringValue: 'quay-2' } }] },
    scopeMetrics: [{ metrics: [cpu('user', 45), cpu('idle', 75)] }]
  };
  const batch = decodeMetricsJson(JSON.stringify({ resourceMetrics: [...resourceMetrics, ofHost] }));
  await writer.addCounters(batch);
  await writer.sealCounters(Date.now(), true);
  await writer.addPageParts(
    Array.from({ length: 60 }, (_, i) => ({
      load: load({
        traceId: (i + 1).toString(16).padStart(32, '0'),
        atUs: (BEGIN + (i % MINUTES) * MINUTE) * 1000,
        page: i % 2 === 0 ? '/board' : '/vessels',
        device: i % 3 === 0 ? 'phone' : 'desktop',
        vitals: { lcp: 1000 + i * 10, cls: 0.05 }
      }),
      part: 1
    }))
  );
  const crash = {
    kind: 'crash',
    format: 'process-end',
    name: 'end.json',
    bytes: 1,
    service: 'tides',
    host: 'quay-3',
    release: '7.2',
    pid: 7,
    durationNs: 0,
    summary: '{}'
  };
  for (const [id, minute, agoMinutes] of [
    ['a', 3, 1],
    ['b', 3, 5],
    ['c', 8, 5000]
  ] as const) {
    const receivedAtUs = (BEGIN + minute * MINUTE) * 1000;
    const startedAtUs = receivedAtUs - agoMinutes * 60e6;
    await writer.addEvidence({ ...crash, id: id.repeat(64), receivedAtUs, startedAtUs });
  }
  database = new LocalDatabase(openDatabase(url));
});
afterAll(async () => {
  await writer.close();
  await database.close();
  await rm(folder, { recursive: true, force: true });
});

async function cellsOf(of: object, step: 1 | 60 = 1): Promise<Map<number, Cell>> {
  const watched = v.parse(Watched, of);
  const [from, to] = [Math.floor(FIRST / step), Math.floor((FIRST + MINUTES - 1) / step)];
  const ids = await readPlaceIds(database);
  const [cells] = await readCells([watched], { database, ids, step, from, to });
  return cells;
}
const whole = async (of: object): Promise<Cell> => sumOver(await cellsOf(of), FIRST, FIRST + MINUTES - 1);

describe('what figures are made of, against every request by itself', () => {
  it.each<[string, object, (one: Made) => boolean]>([
    ['everything', {}, () => true],
    ['a service', { service: 'berths' }, () => true],
    ['an endpoint', { service: 'berths', endpoint: 'GET /plan' }, (one) => one.route === '/plan'],
    ['a host', { host: 'quay-3' }, (one) => one.host === 'quay-3'],
    ['every host but one', { host: '!quay-3' }, (one) => one.host !== 'quay-3'],
    [
      'a release of an endpoint on a host',
      { service: 'berths', endpoint: 'GET /export', host: 'quay-2', release: '7.3' },
      (one) => one.route === '/export' && one.host === 'quay-2' && one.release === '7.3'
    ],
    ['what is not there', { service: 'tides' }, () => false]
  ])('counts %s', async (_, place, isIn) => {
    const cells = await cellsOf({ of: 'requests', figure: 'p95', place });
    const own = made.filter(isIn);
    for (let minute = FIRST; minute < FIRST + MINUTES; minute++) {
      const then = own.filter(({ at }) => Math.floor(at / MINUTE) === minute);
      const cell = cells.get(minute);
      expect(cell?.count ?? 0).toBe(then.length);
      expect(cell?.failed ?? 0).toBe(then.filter(({ failed }) => failed).length);
      expect(cell?.hits ?? 0).toBe(then.reduce((sum, { queries = 0 }) => sum + queries, 0));
      expect(cell?.sum ?? 0).toBe(then.reduce((sum, { ms }) => sum + ms * 1e6, 0));
    }
  });

  it('gives several figures at once what each gives alone', async () => {
    const watched = [
      { of: 'requests', figure: 'p95', place: { host: 'quay-2' } },
      { of: 'requests', figure: 'p95', place: { service: 'berths', endpoint: 'GET /plan' } },
      { of: 'requests', figure: 'rate', place: {} }
    ].map((one) => v.parse(Watched, one));
    const ids = await readPlaceIds(database);
    const reading = { database, ids, step: 1 as const, from: FIRST, to: FIRST + MINUTES - 1 };
    const together = await readCells(watched, reading);
    for (const [i, one] of watched.entries())
      expect(together[i]).toEqual((await readCells([one], reading))[0]);
  });

  it('tells requests under conditions on attributes as the sums tell those without any', async () => {
    const north = await whole({ of: 'requests', figure: 'p95', attributes: ['berth.zone=north'] });
    const own = made.filter(({ zone }) => zone === 'north');
    expect([north.count, north.failed]).toEqual([own.length, own.filter(({ failed }) => failed).length]);
    const south = await whole({ of: 'requests', figure: 'p95', attributes: ['berth.zone=south'] });
    const all = await whole({ of: 'requests', figure: 'p95' });
    expect(north.count + south.count).toBe(all.count);
    expect(north.sum + south.sum).toBe(all.sum);
  });

  it('counts calls of a group, alike from the sums and one by one', async () => {
    const call = { kind: 'database', fingerprint: 'select * from line where id = ?' };
    const summed = await whole({ of: 'calls', figure: 'p95', ...call });
    const calls = made.reduce((sum, { queries = 0 }) => sum + queries, 0);
    expect([summed.count, summed.hits]).toEqual([calls, made.length]);
    expect(sketchQuantiles(summed.sketch, [0.5])[0] / 8000).toBeCloseTo(1, 1);
    const single = await whole({
      of: 'calls',
      figure: 'p95',
      ...call,
      attributes: ['db.system.name=sqlite']
    });
    expect([single.count, single.hits, single.sum]).toEqual([summed.count, summed.hits, summed.sum]);
    expect((await whole({ of: 'calls', figure: 'p95', ...call, fingerprint: 'select ?' })).count).toBe(0);
  });

  it('tells in which share of the requests a rule found something', async () => {
    const place = { service: 'berths', endpoint: 'GET /plan' };
    const cell = await whole({ of: 'finding', rule: 'query-per-row', place });
    const own = made.filter((one) => route(one) === 'GET /plan');
    const looped = own.filter(({ queries = 0 }) => queries >= 5);
    expect([cell.count, cell.hits]).toEqual([own.length, looped.length]);
    expect(looped.length).toBeGreaterThan(0);
  });

  it('counts failures, and those that were never seen before in their first minute alone', async () => {
    const often = await cellsOf({ of: 'failures', figure: 'rate', place: { service: 'berths' } });
    for (let minute = FIRST; minute < FIRST + MINUTES; minute++)
      expect(often.get(minute)?.hits ?? 0).toBe(
        made.filter(({ failed, at }) => failed && Math.floor(at / MINUTE) === minute).length
      );
    const fresh = await cellsOf({ of: 'failures', figure: 'new' });
    const firsts = new Map<string, number>();
    for (const one of made.filter(({ failed }) => failed)) {
      const known = firsts.get(route(one)) ?? Infinity;
      firsts.set(route(one), Math.min(known, Math.floor(one.at / MINUTE)));
    }
    const expected = new Map<number, number>();
    for (const minute of firsts.values()) expected.set(minute, (expected.get(minute) ?? 0) + 1);
    expect(new Map([...fresh].map(([minute, { hits }]) => [minute, hits]))).toEqual(expected);
    expect(await whole({ of: 'failures', figure: 'new', place: { service: 'tides' } })).toMatchObject({
      hits: 0
    });
  });

  it.each([
    ['mean', 15],
    ['sum', 30],
    ['highest', 20],
    ['lowest', 10]
  ] as const)('folds the series of a counter by their %s', async (fold, first) => {
    const cells = await cellsOf({ of: 'counter', name: 'quay.queue', fold, place: { host: 'quay-2' } });
    expect(cells.size).toBe(MINUTES);
    const perMinute = fold === 'sum' ? 2 : 1;
    for (let i = 0; i < MINUTES; i++) expect(cells.get(FIRST + i)?.sum).toBeCloseTo(first + perMinute * i, 9);
  });

  it('takes what only grows as an amount a second', async () => {
    const cells = await cellsOf({ of: 'counter', name: 'quay.moves', isRate: true, fold: 'sum' });
    // 600 and 1200 a minute are 10 and 20 a second.
    expect(cells.get(FIRST + 10)?.sum).toBeCloseTo(30, 6);
  });

  it('tells what the strips of a host show', async () => {
    // 45 of every 120 seconds of its cores are used.
    const cells = await cellsOf({ of: 'measure', measure: 'cpu', host: 'quay-2' });
    expect(cells.get(FIRST + 10)?.sum).toBeCloseTo(45 / 120, 6);
    expect((await cellsOf({ of: 'measure', measure: 'cpu', host: 'quay-9' })).size).toBe(0);
  });

  it('tells vitals of a page and an audience', async () => {
    const board = await whole({ of: 'vital', vital: 'lcp', page: '/board' });
    expect(board.count).toBe(30);
    const phones = await whole({ of: 'vital', vital: 'lcp', page: '/board', audience: { device: 'phone' } });
    expect(phones.count).toBe(10);
    const all = v.parse(Watched, { of: 'vital', vital: 'lcp' });
    // The 75th percentile of 1000, 1010 … 1590 ms, within 1 %.
    expect(valueIn(figureOf(all), await whole(all), MINUTES)! / 1442.5e6).toBeCloseTo(1, 1);
    expect((await whole({ of: 'vital', vital: 'inp' })).count).toBe(0);
  });

  it('counts crashes when they are received; one of long ago is no news', async () => {
    const cells = await cellsOf({ of: 'crashes', place: { service: 'tides' } });
    expect([...cells].map(([minute, { hits }]) => [minute - FIRST, hits])).toEqual([[3, 2]]);
    expect((await cellsOf({ of: 'crashes', place: { host: '!quay-3' } })).size).toBe(0);
  });

  it('has the same in the bins of an hour as in their minutes together', async () => {
    for (const of of [
      { of: 'requests', figure: 'p95', place: { host: 'quay-3' } },
      { of: 'finding', rule: 'query-per-row', place: { service: 'berths' } },
      { of: 'failures', figure: 'rate' },
      { of: 'failures', figure: 'new' }
    ]) {
      const [hour] = [...(await cellsOf(of, 60)).values()];
      const minutes = await whole(of);
      expect([hour.count, hour.failed, hour.hits, hour.sum]).toEqual([
        minutes.count,
        minutes.failed,
        minutes.hits,
        minutes.sum
      ]);
      const figure = figureOf(v.parse(Watched, of));
      expect(valueIn(figure, hour, 20)).toEqual(valueIn(figure, minutes, 20));
    }
  });
});
