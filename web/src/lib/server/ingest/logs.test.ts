import { mkdtemp, rm } from 'node:fs/promises';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { createClient, type Client } from '@libsql/client';
import { TraceFlags, trace } from '@opentelemetry/api';
import { OTLPLogExporter } from '@opentelemetry/exporter-logs-otlp-proto';
import { resourceFromAttributes } from '@opentelemetry/resources';
import { LoggerProvider, SimpleLogRecordProcessor } from '@opentelemetry/sdk-logs';
import { ROOT_CONTEXT } from '@opentelemetry/api';
import { decodeLogsProtobuf, type LogRecord } from '@tromix/core/formats/otlp/logs';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { MINUTE, openWriter, request, sendRequests } from '$lib/testing/sent-requests';
import type { Writer } from './writer';

const NOW = Math.floor(Date.now() / MINUTE) * MINUTE;
let folder: string;
let writer: Writer;
let client: Client;

beforeEach(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-logs-'));
  const url = `file:${path.join(folder, 'test.sqlite')}`;
  writer = await openWriter(url);
  client = createClient({ url });
});
afterEach(async () => {
  await writer.close();
  client.close();
  await rm(folder, { recursive: true, force: true });
});

interface Logged {
  text: string;
  severity?: number;
  span?: { traceId: string; spanId: string };
  attributes?: Record<string, string>;
  thrown?: Error;
  at?: number;
}

/** What OpenTelemetry's SDK for Node and its exporter put on the wire. */
async function sentBySdk(...records: Logged[]): Promise<LogRecord[]> {
  const bodies: Buffer[] = [];
  const server: Server = createServer((incoming, answer) => {
    const parts: Buffer[] = [];
    incoming.on('data', (part: Buffer) => parts.push(part));
    incoming.on('end', () => {
      bodies.push(Buffer.concat(parts));
      answer.end();
    });
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const { port } = server.address() as AddressInfo;
  const provider = new LoggerProvider({
    resource: resourceFromAttributes({
      'service.name': 'berths',
      'service.version': '7.3',
      'host.name': 'quay-2'
    }),
    processors: [
      new SimpleLogRecordProcessor({
        exporter: new OTLPLogExporter({ url: `http://127.0.0.1:${port}/v1/logs` })
      })
    ]
  });
  const logger = provider.getLogger('test');
  for (const { text, severity = 9, span, attributes = {}, thrown, at = NOW } of records)
    logger.emit({
      body: text,
      severityNumber: severity,
      attributes,
      timestamp: at,
      ...(thrown ? { exception: thrown } : {}),
      ...(span
        ? { context: trace.setSpanContext(ROOT_CONTEXT, { ...span, traceFlags: TraceFlags.SAMPLED }) }
        : {})
    });
  await provider.shutdown();
  await new Promise((done) => server.close(done));
  return bodies.flatMap((body) => decodeLogsProtobuf(body).records);
}

const settle = (): Promise<number> => writer.settle(Date.now(), true);
const rows = async (sql: string): Promise<unknown[][]> =>
  (await client.execute(sql)).rows.map((row) => Array.from(row));
const failures = (): Promise<unknown[][]> =>
  rows(
    'SELECT g.type, g.message, g.function, g.endpoint FROM failures f JOIN failure_groups g ON g.id = f.group_id ORDER BY f.id'
  );
const times = async (): Promise<unknown> =>
  (await rows('SELECT sum(times) FROM failure_rollups WHERE step = 1440 AND margin = 1'))[0][0];

const TRACE = request({ trace: 7, at: NOW - 200, ms: 300 });
const SPAN = { traceId: '7'.padStart(32, '0'), spanId: (7001).toString(16).padStart(16, '0') };
class BerthTaken extends Error {
  override name = 'BerthTaken';
}

describe('log records as the SDK sends them', () => {
  it('are stored once, without secrets, of a span or only of their process', async () => {
    const records = await sentBySdk(
      { text: 'asked with Bearer abcdefghijklmnop0123456789', span: SPAN },
      { text: 'started', attributes: { authorization: 'hush' } }
    );
    await writer.addLogs(records);
    await writer.addLogs(await sentBySdk({ text: 'started', attributes: { authorization: 'hush' } }));
    const stored = await rows(
      'SELECT l.trace_id, l.body, l.attributes, s.name FROM logs l JOIN resources r ON r.id = l.resource_id JOIN services s ON s.id = r.service_id ORDER BY l.id'
    );
    expect(stored).toMatchObject([
      [SPAN.traceId, expect.not.stringContaining('abcdefghij'), '[]', 'berths'],
      ['', 'started', '[]', 'berths']
    ]);
  });

  it.each(['before', 'after'])(
    'an exception in the log is a failure of its request: the record comes %s the spans',
    async (when) => {
      const records = await sentBySdk({
        text: 'could not plan',
        severity: 17,
        span: SPAN,
        thrown: new BerthTaken('berth 3 is taken')
      });
      if (when === 'before') await writer.addLogs(records);
      await sendRequests(writer, [TRACE]);
      if (when === 'after') await writer.addLogs(records);
      await writer.addLogs(records);
      await settle();
      expect(await failures()).toMatchObject([
        ['BerthTaken', 'berth ? is taken', expect.any(String), expect.any(String)]
      ]);
      expect(await times()).toBe(1);
      expect((await rows('SELECT count(*) FROM pending_traces'))[0][0]).toBe(0);
    }
  );

  it('outside of every trace it is one of its service, counted once however often it is sent', async () => {
    const records = await sentBySdk(
      { text: 'the queue to tug 4 is closed', severity: 17 },
      { text: 'the queue to tug 9 is closed', severity: 21, at: NOW + 1 },
      { text: 'nothing to see', severity: 9 }
    );
    await writer.addLogs(records);
    await writer.addLogs(records);
    expect(await failures()).toEqual([
      ['', 'the queue to tug ? is closed', '', 'berths: outside of requests'],
      ['', 'the queue to tug ? is closed', '', 'berths: outside of requests']
    ]);
    expect(await times()).toBe(2);
  });

  it('goes with its days, and stays counted', async () => {
    await writer.addLogs(
      await sentBySdk({ text: 'old', severity: 17, at: NOW - 4 * 86_400_000 }, { text: 'new', severity: 17 })
    );
    await writer.sweep(NOW);
    expect(await rows('SELECT body FROM logs')).toEqual([['new']]);
    expect(await failures()).toHaveLength(1);
    expect(await times()).toBe(2);
  });
});

it('bounds what a thousand new messages a second would make of the groups', async () => {
  const [record] = await sentBySdk({ text: 'x', severity: 17 });
  const word = (i: number): string => [...String(i)].map((digit) => 'abcdefghij'[Number(digit)]).join('');
  for (let from = 0; from < 12_000; from += 3000)
    await writer.addLogs(
      Array.from({ length: 3000 }, (_, i) => ({
        ...record,
        attributes: new Map(),
        atUs: record.atUs + from + i,
        body: `no ${word(from + i)} is free`
      }))
    );
  const [[groups]] = await rows('SELECT count(*) FROM failure_groups');
  expect(groups).toBeLessThanOrEqual(10_001);
  expect(await times()).toBe(12_000);
  expect(
    await rows(
      "SELECT count(*) > 1000 FROM failures f JOIN failure_groups g ON g.id = f.group_id WHERE g.type || g.message LIKE '%other%'"
    )
  ).toEqual([[1]]);
});
