import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { createClient, type Client } from '@libsql/client';
import { openWriter, sendRequests } from '$lib/testing/sent-requests';
import type { Writer } from './writer';

let folder: string;
let url: string;
let client: Client;
let writer: Writer;
beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-callee-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  writer = await openWriter(url);
  client = createClient({ url });
});
afterAll(async () => {
  client.close();
  await writer.close();
  await rm(folder, { recursive: true, force: true });
});

const text = (key: string, stringValue: string): object => ({ key, value: { stringValue } });
let traces = 0;
/** A request of the desk that calls an address, at which a service answers. */
async function call(answering: string, address: string): Promise<void> {
  const traceId = (++traces).toString(16).padStart(32, '0');
  const span = (
    id: string,
    parent: string,
    kind: number,
    [from, to]: number[],
    attributes: object[]
  ): object => ({
    traceId,
    spanId: id.repeat(16),
    parentSpanId: parent && parent.repeat(16),
    name: 'POST',
    kind,
    startTimeUnixNano: `${(Date.now() + from) * 1e6}`,
    endTimeUnixNano: `${(Date.now() + to) * 1e6}`,
    attributes
  });
  const of = (service: string, spans: object[]): object => ({
    resource: { attributes: [text('service.name', service)] },
    scopeSpans: [{ spans }]
  });
  const method = text('http.request.method', 'POST');
  await sendRequests(writer, [
    of('desk', [
      span('a', '', 2, [0, 50], [method, text('http.route', '/plan')]),
      span('b', 'a', 3, [5, 45], [method, text('url.full', `http://${address}/berth`)])
    ]),
    ...(answering
      ? [of(answering, [span('c', 'b', 2, [10, 40], [method, text('http.route', '/berth')])])]
      : [])
  ]);
}
const callees = async (): Promise<unknown> =>
  (
    await client.execute("SELECT fingerprint, callee FROM call_groups WHERE kind = 'http' ORDER BY 1")
  ).rows.map((row) => [row[0], row[1]]);

it('who answers the calls of a group is learned from traces, and no one is named where several do', async () => {
  await call('', '127.0.0.1:47401');
  expect(await callees()).toEqual([['POST 127.0.0.1:47401/berth', '']]);
  await call('berths', '127.0.0.1:47401');
  await call('tides', '127.0.0.1:47402');
  expect(await callees()).toEqual([
    ['POST 127.0.0.1:47401/berth', 'berths'],
    ['POST 127.0.0.1:47402/berth', 'tides']
  ]);
  // It is known after a start, too.
  await writer.close();
  writer = await openWriter(url);
  await call('berths', '127.0.0.1:47402');
  await call('tides', '127.0.0.1:47402');
  expect(await callees()).toEqual([
    ['POST 127.0.0.1:47401/berth', 'berths'],
    ['POST 127.0.0.1:47402/berth', '*']
  ]);
});
