import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { createClient, type Client } from '@libsql/client';
import { meanIn } from '@tromix/core/counters/bins';
import { histogramQuantile, merged, type Distribution } from '@tromix/core/counters/histograms';
import { decodeMetricsJson } from '@tromix/core/formats/otlp/metrics';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { MINUTE, openWriter, request, RETENTION, sendRequests } from '$lib/testing/sent-requests';
import { CELL_MS, GRACE_MS } from '../counters/levels';
import type { CounterAnswer } from '../ingest/counters/counter-store';
import { MAX_PER_METRIC, TOO_MANY_OF_METRIC } from '../ingest/counters/series-book';
import type { Writer } from '../ingest/writer';

let folder: string;
let url: string;
let client: Client;
let writer: Writer;
vi.mock('../settings', () => ({
  settings: () => ({ databaseUrl: url, sourceFolders: [], retention: RETENTION })
}));
vi.mock('../workers', async () => (await import('$lib/testing/local-workers')).localWorkers(() => url));
const { binsOf, distributionsIn, seriesOf } = await import('./counters');

const HOUR = 3_600_000;
const DAY = 24 * HOUR;
/** The start of a cell of the grid, three days ago: all of a day after it is over. */
const BEGIN = Math.floor((Date.now() - 3 * DAY) / (2 * HOUR)) * 2 * HOUR;
const LATER = BEGIN + DAY;

type Values = readonly (readonly [atMs: number, value: number | string])[];
const nanos = (ms: number): string => `${ms}000000`;
const pairs = (attributes: Record<string, string>): object[] =>
  Object.entries(attributes).map(([key, stringValue]) => ({ key, value: { stringValue } }));
const points = (values: Values, attributes: Record<string, string> = {}, startMs = 0): object[] =>
  values.map(([at, asDouble]) => ({
    timeUnixNano: nanos(at),
    ...(startMs > 0 && { startTimeUnixNano: nanos(startMs) }),
    asDouble,
    attributes: pairs(attributes)
  }));
const gauge = (name: string, values: Values, attributes = {}): object => ({
  name,
  unit: '1',
  gauge: { dataPoints: points(values, attributes) }
});
const counter = (name: string, values: Values, startMs = 0): object => ({
  name,
  sum: { aggregationTemporality: 2, isMonotonic: true, dataPoints: points(values, {}, startMs) }
});
const send = (metrics: object[], nowMs = Date.now(), host = 'quay-3'): Promise<CounterAnswer> =>
  writer.addCounters(
    decodeMetricsJson(
      JSON.stringify({
        resourceMetrics: [
          {
            resource: { attributes: pairs({ 'service.name': 'tides', 'host.name': host }) },
            scopeMetrics: [{ metrics }]
          }
        ]
      })
    ),
    nowMs
  );
const one = async (sql: string): Promise<unknown> => (await client.execute(sql)).rows[0][0];
/** Means of the bins of the one series of a name; null where nothing is known. */
async function means(name: string, fromMs: number, toMs: number, stepMs: number): Promise<(number | null)[]> {
  const series = await seriesOf({ names: [name], sinceMs: 0 });
  expect(series).toHaveLength(1);
  const bins = (await binsOf(series, { fromMs, toMs }, stepMs)).get(series[0].id)!;
  return [...bins.weight].map((_, i) => meanIn(bins, i));
}
async function increase(name: string, fromMs: number, toMs: number, stepMs: number): Promise<number> {
  const series = await seriesOf({ names: [name], sinceMs: 0 });
  const bins = (await binsOf(series, { fromMs, toMs }, stepMs)).get(series[0].id)!;
  return [...bins.sum].reduce((sum, by) => sum + by, 0);
}
const every = (stepMs: number, count: number, value: (i: number) => number, from = BEGIN): Values =>
  Array.from({ length: count }, (_, i) => [from + i * stepMs, value(i)]);

beforeEach(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-counters-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  writer = await openWriter(url);
  client = createClient({ url });
});
afterEach(async () => {
  await writer.close();
  client.close();
  await rm(folder, { recursive: true, force: true });
});

describe('counters over time', () => {
  it('say the same while they wait and in blocks', async () => {
    const from = Math.floor(Date.now() / MINUTE) * MINUTE - 10 * MINUTE;
    await send([
      gauge(
        'tides.level',
        every(10_000, 60, (i) => i / 3, from)
      )
    ]);
    const waiting = await means('tides.level', from, from + 10 * MINUTE, MINUTE);
    expect(waiting).toHaveLength(10);
    expect(waiting[2]).toBeCloseTo((12 + 13 + 14 + 15 + 16 + 17) / 18, 12);
    await writer.sealCounters(Date.now(), true);
    expect(await means('tides.level', from, from + 10 * MINUTE, MINUTE)).toEqual(waiting);
  });

  it('say the same in blocks and summed up', { timeout: 30_000 }, async () => {
    const level = (i: number): number => 10 + Math.sin(i / 40) + (i % 7) / 3;
    const count = 3 * (CELL_MS / 10_000);
    await send([
      gauge('tides.level', every(10_000, count, level)),
      counter(
        'tides.calls',
        every(10_000, count, (i) => i * 5 + (i % 3))
      )
    ]);
    const asked = async (): Promise<unknown[]> => [
      await means('tides.level', BEGIN, BEGIN + 3 * CELL_MS, MINUTE),
      await means('tides.calls', BEGIN, BEGIN + 3 * CELL_MS, MINUTE),
      await means('tides.level', BEGIN, BEGIN + 3 * CELL_MS, HOUR),
      await increase('tides.calls', BEGIN, BEGIN + 3 * CELL_MS, HOUR)
    ];
    await writer.sealCounters(Date.now(), true);
    expect(await one('SELECT count(*) FROM counter_batches')).toBe(0);
    const exact = await asked();
    await writer.sweep(LATER);
    expect(await one('SELECT count(*) FROM counter_blocks WHERE rolled = 0')).toBe(0);
    const summed = await asked();
    for (const [i, before] of exact.entries()) {
      const [a, b] = [summed[i], before].map((list) => (Array.isArray(list) ? list : [list]) as number[]);
      expect(a).toHaveLength(b.length);
      for (const [j, value] of a.entries()) expect(value).toBeCloseTo(b[j], 5);
    }
    // By hand: the first six values of the level, and all that the counter grew by.
    expect((exact[0] as number[])[0]).toBeCloseTo(
      [0, 1, 2, 3, 4, 5].reduce((sum, i) => sum + level(i), 0) / 6,
      12
    );
    expect(exact[3]).toBeCloseTo((count - 1) * 5 + ((count - 1) % 3), 6);
  });

  it('take late points in, an hour out of order, and each moment once', async () => {
    const inOrder = every(10_000, 700, (i) => i);
    const late = [...inOrder.slice(300, 400)];
    await send([counter('calls', [...inOrder.slice(0, 300), ...inOrder.slice(400)])]);
    await writer.sweep(LATER);
    await send([counter('calls', late)]);
    await send([counter('calls', late)]);
    await writer.sealCounters(Date.now(), true);
    await writer.sweep(LATER);
    expect(await one('SELECT sum(points) FROM counter_blocks WHERE level = 0')).toBe(700);
    expect(await increase('calls', BEGIN, BEGIN + 2 * HOUR, MINUTE)).toBeCloseTo(699, 6);
    const rates = await means('calls', BEGIN, BEGIN + 2 * HOUR, MINUTE);
    expect(new Set(rates.filter((rate) => rate !== null).map((rate) => rate.toFixed(6)))).toEqual(
      new Set(['0.100000'])
    );
  });

  it('begin anew where they were set back, and are not told where they were silent', async () => {
    const before = every(10_000, 31, (i) => 1000 + i);
    const after = every(10_000, 31, (i) => i, BEGIN + 5 * MINUTE);
    await send([counter('calls', [...before.slice(0, -1), ...after.slice(1)])]);
    await writer.sealCounters(Date.now(), true);
    expect(await increase('calls', BEGIN, BEGIN + HOUR, MINUTE)).toBeCloseTo(29 + 30, 6);
    await send([
      counter('pauses', [...every(10_000, 31, (i) => i), ...every(10_000, 31, (i) => 5000 + i, BEGIN + HOUR)])
    ]);
    await writer.sealCounters(Date.now(), true);
    expect(await increase('pauses', BEGIN, BEGIN + 2 * HOUR, MINUTE)).toBeCloseTo(60, 6);
    const rates = await means('pauses', BEGIN, BEGIN + 2 * HOUR, MINUTE);
    expect(rates.slice(6, 59).every((rate) => rate === null)).toBe(true);
  });

  it('of two senders who share a name are two streams', async () => {
    const a = BEGIN - HOUR;
    const b = BEGIN - 2 * HOUR;
    const metric = (start: number, base: number, shift: number): object =>
      counter(
        'calls',
        every(10_000, 61, (i) => base + i, BEGIN + shift),
        start
      );
    await send([metric(a, 1000, 0), metric(b, 90_000, 3000)]);
    await writer.sealCounters(Date.now(), true);
    expect(await increase('calls', BEGIN, BEGIN + HOUR, MINUTE)).toBeCloseTo(120, 6);
  });

  it('of histograms keep their quantiles when they are summed up, also where bounds change', async () => {
    const histogram = (at: number, bounds: number[], counts: number[]): object => ({
      timeUnixNano: nanos(at),
      startTimeUnixNano: nanos(at - 10_000),
      count: counts.reduce((sum, n) => sum + n, 0),
      sum: 5,
      explicitBounds: bounds,
      bucketCounts: counts
    });
    const at = (i: number): number => BEGIN + 30_000 + i * 10_000;
    await send([
      {
        name: 'took',
        unit: 's',
        histogram: {
          aggregationTemporality: 1,
          dataPoints: [
            ...Array.from({ length: 100 }, (_, i) => histogram(at(i), [1, 2, 4], [1, 2, 3, 4])),
            ...Array.from({ length: 20 }, (_, i) => histogram(at(100 + i), [1, 8], [1, 1, 0]))
          ]
        }
      }
    ]);
    const told = async (): Promise<[number, number, number | undefined]> => {
      const series = await seriesOf({ names: ['took'], sinceMs: 0 });
      const list = (await distributionsIn(series, { fromMs: BEGIN, toMs: BEGIN + 2 * HOUR }, MINUTE)).get(
        series[0].id
      )!;
      const all = list.filter(({ layout }) => layout.kind === 'explicit' && layout.bounds.length === 3);
      const sum = all.reduce<Distribution | null>((to, of) => (to ? merged(to, of) : of), null)!;
      return [list.reduce((n, { count }) => n + count, 0), sum.count, histogramQuantile(sum, 0.5)?.value];
    };
    // By hand: half of 1,000 lie below the 200 hundredths over 300 of the bucket from 2 to 4.
    const expected = [1040, 1000, 2 + (2 * 200) / 300];
    await writer.sealCounters(Date.now(), true);
    expect(await told()).toEqual(expected);
    await writer.sweep(LATER);
    expect(await told()).toEqual(expected);
  });

  it('are found again after the server was killed, each once', async () => {
    await send([
      counter(
        'calls',
        every(10_000, 400, (i) => i)
      )
    ]);
    // As if it was killed after the blocks were written and before the batches went.
    const { rows } = await client.execute('SELECT points, data FROM counter_batches');
    await writer.sealCounters(Date.now(), true);
    await client.execute({
      sql: 'INSERT INTO counter_batches (points, data) VALUES (?, ?)',
      args: [rows[0][0], rows[0][1]]
    });
    await writer.close();
    writer = await openWriter(url);
    expect(await increase('calls', BEGIN, BEGIN + 2 * HOUR, MINUTE)).toBeCloseTo(399, 6);
    await writer.sealCounters(Date.now(), true);
    expect(await increase('calls', BEGIN, BEGIN + 2 * HOUR, MINUTE)).toBeCloseTo(399, 6);
    expect(await one('SELECT sum(points) FROM counter_blocks WHERE level = 0')).toBe(400);
    await send([
      counter(
        'calls',
        every(10_000, 10, (i) => 400 + i, BEGIN + 4_000_000)
      )
    ]);
    await writer.sealCounters(Date.now(), true);
    expect(await one('SELECT count(*) FROM counter_series')).toBe(1);
  });

  it('go when they are older than they are kept, hours last', async () => {
    await send([
      gauge(
        'level',
        every(10_000, 400, (i) => i)
      )
    ]);
    await writer.sealCounters(Date.now(), true);
    const left = async (): Promise<unknown[]> =>
      (await client.execute('SELECT DISTINCT level FROM counter_blocks ORDER BY 1')).rows.map(
        (row) => row[0]
      );
    await writer.sweep(LATER);
    expect(await left()).toEqual([0, 1, 2]);
    await writer.sweep(BEGIN + 9 * DAY);
    expect(await left()).toEqual([1, 2]);
    await writer.sweep(BEGIN + 40 * DAY);
    expect(await left()).toEqual([2]);
    await writer.sweep(BEGIN + 500 * DAY);
    expect(await left()).toEqual([]);
    expect(await one('SELECT count(*) FROM counter_series')).toBe(0);
    expect(await one('SELECT count(*) FROM counter_sources')).toBe(0);
  });

  it('go beyond the size of the database where they are older than the requests; their sums stay', async () => {
    // Digits that nothing compresses.
    const noise = (i: number): number => Math.sin(i * 12.9898) * 43758.5453;
    await send(
      Array.from({ length: 60 }, (_, level) =>
        gauge(
          `level-${level}`,
          every(10_000, 300, (i) => noise(i + 1000 * level))
        )
      )
    );
    await writer.sealCounters(Date.now(), true);
    await writer.sweep(LATER);
    await sendRequests(
      writer,
      Array.from({ length: 40 }, (_, i) => request({ trace: i + 1, at: BEGIN + 12 * HOUR + i, ms: 10 }))
    );
    const bytes = Number(
      await one(
        'SELECT (page_count - freelist_count) * page_size FROM pragma_page_count(), pragma_freelist_count(), pragma_page_size()'
      )
    );
    await writer.close();
    writer = await openWriter(url, [], { ...RETENTION, maxBytes: bytes - 50_000 });
    await writer.sweep(LATER);
    expect(await one('SELECT count(*) FROM counter_blocks WHERE level = 0')).toBe(0);
    expect(await one('SELECT count(DISTINCT series_id) FROM counter_blocks WHERE level = 1')).toBe(60);
    expect(await one('SELECT count(*) FROM requests')).toBe(40);
  });
});

describe('points that are turned away', () => {
  it('are named with the reason: of no number, of the future, too old', async () => {
    const now = Date.now();
    const { taken, rejected } = await send(
      [
        gauge('level', [
          [now, 'NaN'],
          [now, 'Infinity'],
          [now + 2 * HOUR, 1],
          [now - 8 * DAY, 1],
          [now, 1]
        ])
      ],
      now
    );
    expect(taken).toBe(1);
    expect(rejected).toEqual([
      { reason: 'its value is not a finite number of a magnitude up to 10^30', count: 2 },
      { reason: 'its time is more than an hour ahead', count: 1 },
      { reason: 'it is older than points are kept, 7 days', count: 1 }
    ]);
  });

  it('are those of an attribute that never repeats; others of the sender are taken, and there is room when a day is over', async () => {
    const now = Date.now();
    const endless = (from: number, count: number): object[] =>
      Array.from({ length: count }, (_, i) => gauge('of.requests', [[now, 1]], { request: `r${from + i}` }));
    const first = await send(endless(0, MAX_PER_METRIC + 50), now);
    expect(first).toEqual({ taken: MAX_PER_METRIC, rejected: [{ reason: TOO_MANY_OF_METRIC, count: 50 }] });
    expect(await send([gauge('level', [[now, 1]])], now)).toEqual({ taken: 1, rejected: [] });
    expect(await send(endless(0, 1), now)).toMatchObject({ taken: 1 });
    expect((await send(endless(5000, 1), now)).taken).toBe(0);
    const { rows } = await client.execute('SELECT name, service, host, points FROM counter_refusals');
    expect(rows.map((row) => Object.values(row))).toEqual([['of.requests', 'tides', 'quay-3', 51]]);
    await writer.sealCounters(now, true);
    await writer.sweep(now + 25 * HOUR);
    const later = now + 25 * HOUR;
    const again = Array.from({ length: 2 }, (_, i) =>
      gauge('of.requests', [[later, 2]], { request: `r${5000 + i}` })
    );
    expect((await send(again, later)).taken).toBe(2);
    // One that was silent for a day is known again.
    await send([gauge('level', [[later, 5]])], later);
    expect(await one("SELECT count(*) FROM counter_series WHERE name = 'level'")).toBe(1);
  });
});

describe('what an earlier version kept', () => {
  it('is taken into the new tables', async () => {
    await writer.close();
    await client.execute(
      'CREATE TABLE counters_before (name text, service text, host text, pid integer, at_us integer, value real)'
    );
    const at = Math.floor(Date.now() / MINUTE) * MINUTE - HOUR;
    await client.execute(
      `INSERT INTO counters_before VALUES ('process.memory.usage', 'berths', 'quay-2', 7, ${at}000, 1000), ('process.memory.usage', 'berths', 'quay-2', 7, ${at + MINUTE}000, 3000)`
    );
    writer = await openWriter(url);
    expect(await one("SELECT count(*) FROM sqlite_master WHERE name = 'counters_before'")).toBe(0);
    await writer.sealCounters(Date.now(), true);
    expect(await means('process.memory.usage', at, at + 2 * MINUTE, MINUTE)).toEqual([1000, 3000]);
    const [series] = await seriesOf({ names: ['process.memory.usage'], hosts: ['quay-2'], sinceMs: 0 });
    expect(series).toMatchObject({ unit: 'By', source: { service: 'berths', pid: 7 } });
  });
});

it('sums up no cell before its late points have had time to come', async () => {
  const now = Math.floor(Date.now() / CELL_MS) * CELL_MS + GRACE_MS - MINUTE;
  await send([gauge('level', [[now - GRACE_MS, 1]])], now);
  await writer.sealCounters(now, true);
  await writer.sweep(now);
  expect(await one('SELECT count(*) FROM counter_blocks WHERE rolled = 1')).toBe(0);
  await writer.sweep(now + 2 * MINUTE);
  expect(await one('SELECT count(*) FROM counter_blocks WHERE level = 0 AND rolled = 1')).toBe(1);
});
