import { readFileSync } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { createClient, type Client } from '@libsql/client';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { openWriter } from '$lib/testing/sent-requests';
import type { Writer } from './writer';

let folder: string;
let writer: Writer;
let client: Client;
beforeEach(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-background-'));
  const url = `file:${path.join(folder, 'test.sqlite')}`;
  writer = await openWriter(url);
  client = createClient({ url });
});
afterEach(async () => {
  client.close();
  await writer.close();
  await rm(folder, { recursive: true, force: true });
});
const one = async (sql: string): Promise<unknown> => Object.values((await client.execute(sql)).rows[0])[0];

it('tells file reads and sockets of a real start from requests', async () => {
  const recording = path.resolve(import.meta.dirname, '../../../../../recordings/traces/start.otlp.gz');
  await writer.ingest(readFileSync(recording), 'protobuf', true);
  await writer.settle(Date.now(), true);
  expect(
    await one("SELECT group_concat(e.name, ', ') FROM requests r JOIN endpoints e ON e.id = r.endpoint_id")
  ).toMatch(/^GET \/(?:pilots\/:id, GET \/each|each, GET \/pilots\/:id)$/);
  expect(await one('SELECT sum(count) FROM rollups WHERE step = 1 AND margin = 2')).toBe(2);
  expect(await one('SELECT count(*) FROM background_work')).toBeGreaterThan(2000);
  expect(
    await one('SELECT count(*) FROM background_work WHERE trace_id IN (SELECT trace_id FROM requests)')
  ).toBe(0);
  // Nothing is taken for lost.
  expect(await writer.findForgotten()).toBe(0);
});

const id = (n: number): string => n.toString(16).padStart(16, '0');
const root = (trace: number, kind: number): object[] => {
  const traceId = trace.toString(16).padStart(32, '0');
  const at = (ms: number): string => `${1_795_000_000_000 + ms}000000`;
  const span = { traceId, startTimeUnixNano: at(0), endTimeUnixNano: at(50) };
  return [
    { ...span, spanId: id(trace * 10), name: 'nightly tide table', kind },
    {
      ...span,
      spanId: id(trace * 10 + 1),
      parentSpanId: id(trace * 10),
      name: 'SELECT',
      kind: 3,
      attributes: [
        { key: 'db.system.name', value: { stringValue: 'postgresql' } },
        { key: 'db.query.text', value: { stringValue: 'SELECT 1 FROM tide' } }
      ]
    }
  ];
};
const send = async (...spans: object[]): Promise<void> => {
  const resource = { attributes: [{ key: 'service.name', value: { stringValue: 'tides' } }] };
  const body = JSON.stringify({ resourceSpans: [{ resource, scopeSpans: [{ spans }] }] });
  await writer.ingest(new TextEncoder().encode(body), 'json', false);
  await writer.settle(Date.now(), true);
};

it('takes root spans with calls for requests until their service sends an entry span, then books them anew', async () => {
  await send(...root(1, 1), ...root(2, 1));
  expect(await one('SELECT count(*) FROM requests WHERE by_root = 1')).toBe(2);
  expect(await one('SELECT sum(count) FROM rollups WHERE step = 1 AND margin = 2')).toBe(2);
  await send(...root(3, 2));
  await writer.settle(Date.now(), true);
  expect(await one('SELECT serves FROM services')).toBe(1);
  expect(await one('SELECT count(*) FROM requests')).toBe(1);
  expect(await one('SELECT count(*) FROM background_work')).toBe(2);
  expect(await one('SELECT sum(count) FROM rollups WHERE step = 1 AND margin = 2')).toBe(1);
  await send(...root(4, 1));
  expect(await one('SELECT count(*) FROM background_work')).toBe(3);
  expect(await one('SELECT count(*) FROM pending_traces')).toBe(0);
});
