import { mkdtemp, readFile, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { createClient, type Client } from '@libsql/client';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { KeepRule } from '@tromix/core/trace/keep-rules';
import { openForWriting } from '../db/client';
import { MAX_ENDPOINTS, MAX_VALUES } from './dictionary';
import { Writer, type WriterOptions } from './writer';

const MIGRATIONS = path.resolve(import.meta.dirname, '../../../../drizzle');
/** A whole hour, two hours in the past of the tests. */
const HOUR = 1_700_002_800_000 - (1_700_002_800_000 % 3_600_000);
const NOW = HOUR + 2.5 * 3_600_000;

let folder: string;
let url: string;
let writer: Writer;
let client: Client;
const OPTIONS: WriterOptions = {
  keepLiteralsOf: [],
  maxInflatedBytes: 1e9,
  sourceFolders: [],
  settleMs: 0,
  maxTraceSpans: 100_000,
  markFile: '',
  retention: { days: 36_500, maxBytes: 1e12, graceMinutes: 60, logDays: 3, counterDays: 7 }
};

async function open(options: Partial<WriterOptions> = {}): Promise<void> {
  writer = await Writer.open({ ...OPTIONS, ...options }, await openForWriting(url, MIGRATIONS));
}
beforeEach(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-keeping-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  await open();
  client = createClient({ url });
});
afterEach(async () => {
  await writer.close();
  client.close();
  await rm(folder, { recursive: true, force: true });
});

interface Shape {
  trace: number;
  atMs?: number;
  ms?: number;
  route?: string;
  attributes?: Record<string, string>;
}
const text = (key: string, stringValue: string): object => ({ key, value: { stringValue } });

function batch(shapes: Shape[]): Uint8Array {
  const spans = shapes.map(({ trace, atMs = HOUR, ms = 10, route = '/plan', attributes = {} }) => ({
    traceId: trace.toString(16).padStart(32, '0'),
    spanId: trace.toString(16).padStart(16, '0'),
    name: 'GET',
    kind: 2,
    startTimeUnixNano: `${atMs}000000`,
    endTimeUnixNano: `${atMs + ms}000000`,
    attributes: [
      text('http.request.method', 'GET'),
      text('http.route', route),
      ...Object.entries(attributes).map(([name, value]) => text(name, value))
    ]
  }));
  const resource = { attributes: [text('service.name', 'berths'), text('host.name', 'quay-2')] };
  return new TextEncoder().encode(JSON.stringify({ resourceSpans: [{ resource, scopeSpans: [{ spans }] }] }));
}
const take = async (shapes: Shape[]): Promise<void> => {
  await writer.ingest(batch(shapes), 'json', false);
  await writer.settle(Date.now(), true);
};
const one = async (sql: string): Promise<unknown> => (await client.execute(sql)).rows[0][0];
const rules = (...list: KeepRule[]): Promise<void> => writer.change('setKeepRules', list);

describe('keep rules', () => {
  it('let go of what no rule keeps once its hour and the grace are over, and go on counting it', async () => {
    const shapes = Array.from({ length: 50 }, (_, i) => ({ trace: i + 1, ms: i < 5 ? 2000 : 10 }));
    await take([...shapes, { trace: 99, atMs: NOW - 30 * 60_000 }]);
    await rules({ when: 'slower', ms: 1000 });
    expect(await writer.sweep(NOW)).toBe(45);
    expect(await one('SELECT count(*) FROM requests')).toBe(6);
    expect(await one('SELECT count(*) FROM spans')).toBe(6);
    expect(await one('SELECT sum(count) FROM rollups WHERE step = 60 AND margin = 2')).toBe(51);
    // What was judged is not judged again.
    expect(await writer.sweep(NOW)).toBe(0);
  });

  it('keep everything without a rule', async () => {
    await take([{ trace: 1 }, { trace: 2 }]);
    expect(await writer.sweep(NOW)).toBe(0);
    expect(await one('SELECT count(*) FROM requests')).toBe(2);
  });

  it('keep by attribute', async () => {
    await take([
      { trace: 1, attributes: { 'user.id': 'ada' } },
      { trace: 2, attributes: { 'user.id': 'bo' } }
    ]);
    await rules({ when: 'attribute', name: 'user.id', value: 'ada' });
    expect(await writer.sweep(NOW)).toBe(1);
    expect(await one('SELECT trace_id FROM requests')).toBe('1'.padStart(32, '0'));
  });
});

describe('retention', () => {
  it('removes requests by age, and roll-ups step by step', async () => {
    await take([{ trace: 1 }, { trace: 2, atMs: HOUR + 40 * 86_400_000 }]);
    await writer.close();
    await open({ retention: { days: 30, maxBytes: 1e12, graceMinutes: 60, logDays: 3, counterDays: 7 } });
    expect(await writer.sweep(HOUR + 40 * 86_400_000)).toBe(1);
    const steps = await client.execute(
      'SELECT step, count(*) FROM rollups WHERE margin = 2 GROUP BY step ORDER BY step'
    );
    expect(steps.rows.map((row) => [row[0], row[1]])).toEqual([
      [1, 1],
      [10, 1],
      [60, 2],
      [360, 2],
      [1440, 2]
    ]);
  });

  it('removes the oldest first when the database grows beyond its size', async () => {
    await take(
      Array.from({ length: 3000 }, (_, i) => ({
        trace: i + 1,
        atMs: HOUR + i,
        attributes: { note: 'x'.repeat(300) }
      }))
    );
    await writer.close();
    await open({
      retention: { days: 36_500, maxBytes: 2_000_000, graceMinutes: 60, logDays: 3, counterDays: 7 }
    });
    const gone = await writer.sweep(NOW);
    expect(gone).toBeGreaterThan(0);
    expect(gone).toBeLessThan(3000);
    expect(await one('SELECT min(start_us) FROM requests')).toBeGreaterThan(HOUR * 1000);
  });
});

describe('guards', () => {
  it('takes endpoints beyond a thousand of one service together', async () => {
    await take(
      Array.from({ length: MAX_ENDPOINTS + 50 }, (_, i) => ({ trace: i + 1, route: `/odd/x${i}y` }))
    );
    expect(await one('SELECT count(*) FROM endpoints')).toBe(MAX_ENDPOINTS + 1);
    expect(
      await one(
        "SELECT count(*) FROM requests r JOIN endpoints e ON e.id = r.endpoint_id WHERE e.name = '(other endpoints)'"
      )
    ).toBe(50);
  });

  it('numbers no more than so many values of an attribute, and marks that there are more', async () => {
    await take(
      Array.from({ length: MAX_VALUES + 20 }, (_, i) => ({ trace: i + 1, attributes: { seat: `s${i}` } }))
    );
    expect(await one("SELECT count(*) FROM attribute_values WHERE name = 'seat'")).toBe(MAX_VALUES + 1);
  });

  it('bears an attribute of 10 MB, times of 1970 and of the future, and a cycle of parents', async () => {
    const future = HOUR + 400 * 86_400_000;
    await take([
      { trace: 1, attributes: { note: 'x'.repeat(10_000_000) } },
      { trace: 2, atMs: 1 },
      { trace: 3, atMs: future }
    ]);
    expect(await one('SELECT count(*) FROM requests')).toBe(3);
    expect(await one('SELECT max(length(attributes)) FROM spans')).toBeLessThan(20_000);
    const id = (n: number): string => n.toString(16).padStart(16, '0');
    const circle = [1, 2, 3].map((n) => ({
      traceId: '9'.repeat(32),
      spanId: id(n),
      parentSpanId: id((n % 3) + 1),
      name: 'x',
      kind: 1,
      startTimeUnixNano: `${HOUR + n}000000`,
      endTimeUnixNano: `${HOUR + n + 5}000000`
    }));
    const body = JSON.stringify({ resourceSpans: [{ scopeSpans: [{ spans: circle }] }] });
    await writer.ingest(new TextEncoder().encode(body), 'json', false);
    await writer.settle(Date.now(), true);
    expect(await one('SELECT count(*) FROM requests')).toBe(3);
    expect(await one('SELECT count(*) FROM background_work')).toBe(1);
  });
});

it('knows the first request of a process and of a release, whatever order they come in', async () => {
  await take([{ trace: 2, atMs: HOUR + 500 }]);
  await take([{ trace: 1, atMs: HOUR + 100 }]);
  await take([{ trace: 3, atMs: HOUR + 900 }]);
  expect(await one('SELECT first_us FROM resources')).toBe((HOUR + 100) * 1000);
  expect(await one('SELECT first_us FROM releases')).toBe((HOUR + 100) * 1000);
});

it('turns a batch away in words while too much is waiting', async () => {
  const many = Array.from({ length: 60 }, (_, i) => ({ trace: i + 1 }));
  const big = batch(Array.from({ length: 6000 }, (_, i) => many[i % 60]));
  const answers = await Promise.allSettled(
    Array.from({ length: 60 }, () => writer.ingest(big, 'json', false))
  );
  const refused = answers.filter(({ status }) => status === 'rejected');
  expect(refused.length).toBeGreaterThan(0);
  expect(String((refused[0] as PromiseRejectedResult).reason)).toMatch(/a little later/);
  expect(await one('SELECT count(*) FROM spans')).toBe(60);
});

describe('the migration from the first released schema', () => {
  it('books every stored trace again, with everything the new tables hold', async () => {
    await writer.close();
    client.close();
    await rm(folder, { recursive: true, force: true });
    folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-keeping-'));
    url = `file:${path.join(folder, 'test.sqlite')}`;
    client = createClient({ url });
    // The database as the first release left it: its schema, two spans of one trace, and their booking.
    const sql = await readFile(path.join(MIGRATIONS, '0000_foundation.sql'), 'utf8');
    for (const statement of sql.split('--> statement-breakpoint')) await client.execute(statement);
    const journal = JSON.parse(await readFile(path.join(MIGRATIONS, 'meta/_journal.json'), 'utf8')) as {
      entries: { when: number }[];
    };
    await client.executeMultiple(`
      CREATE TABLE __drizzle_migrations (id INTEGER PRIMARY KEY, hash text NOT NULL, created_at numeric);
      INSERT INTO __drizzle_migrations (hash, created_at) VALUES ('first', ${journal.entries[0].when});
      INSERT INTO services VALUES (1, 'berths'); INSERT INTO hosts VALUES (1, 'quay-2');
      INSERT INTO releases VALUES (1, 1, '7.3', 1); INSERT INTO endpoints VALUES (1, 1, 'GET /plan', 800);
      INSERT INTO resources VALUES (1, 'k', 1, 1, 1, 7, '[["service.name","berths"],["zone","north"]]');
      INSERT INTO spans VALUES ('${'a'.repeat(32)}', '${'b'.repeat(16)}', '', 1, ${HOUR * 1000}, 0, 50000000, 2, 'GET', 0, '', NULL, NULL, NULL, '',
        '[["http.request.method","GET"],["http.route","/plan"]]', '[]');
      INSERT INTO requests SELECT '${'a'.repeat(32)}', '${'b'.repeat(16)}', 1, 1, 1, 1, ${HOUR * 1000}, 50000000, 0, 50000000, 1, 0, 0,
        50000000,0,0,0,0,0,0,0,0,0, 50000000,0,0,0,0,0,0,0,0,0;`);
    await open();
    await writer.settle(Date.now(), true);
    expect(await one('SELECT count(*) FROM requests WHERE resource_id = 1')).toBe(1);
    expect(await one('SELECT sum(count) FROM rollups WHERE step = 1440 AND margin = 2')).toBe(1);
    expect(await one("SELECT count(*) FROM attribute_values WHERE name = 'zone'")).toBe(1);
    expect(await one('SELECT apdex_t_ms FROM endpoints')).toBe(800);
    expect(await one('SELECT count(*) FROM call_rollups WHERE step = 60')).toBe(1);
  });
});
