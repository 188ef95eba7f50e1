import path from 'node:path';
import { openForWriting } from '$lib/server/db/client';
import { Writer } from '$lib/server/ingest/writer';
import { forgetSince } from '$lib/server/queries/remembered';

/** A database of sent requests for tests of what is read from it. */
export const RETENTION = { days: 30, maxBytes: 1e12, graceMinutes: 60, logDays: 3, counterDays: 7 };

export async function openWriter(
  url: string,
  sourceFolders: string[] = [],
  retention = RETENTION
): Promise<Writer> {
  const writer = await Writer.open(
    {
      keepLiteralsOf: [],
      maxInflatedBytes: 1e9,
      sourceFolders,
      settleMs: 0,
      maxTraceSpans: 100_000,
      markFile: '',
      retention
    },
    await openForWriting(url, path.resolve(import.meta.dirname, '../../../drizzle'))
  );
  writer.onBooked = (_, firstMinute) => forgetSince(firstMinute);
  return writer;
}

/** Sends resource spans as an exporter does, and waits until they are booked. */
export async function sendRequests(writer: Writer, resourceSpans: readonly object[]): Promise<void> {
  await writer.ingest(new TextEncoder().encode(JSON.stringify({ resourceSpans })), 'json', false);
  await writer.settle(Date.now(), true);
}

export const MINUTE = 60_000;
const text = (key: string, stringValue: string): object => ({ key, value: { stringValue } });

export interface Made {
  trace: number;
  at: number;
  ms: number;
  host?: string;
  release?: string;
  queries?: number;
  failed?: boolean;
  route?: string;
  zone?: string;
}

/** A request with a loop of queries inside; queries take 8 of every 10 ms. */
export function request({
  trace,
  at,
  ms,
  host = 'quay-2',
  release = '7.2',
  queries = 0,
  failed = false,
  route = '/plan',
  zone = ''
}: Made): object {
  const traceId = trace.toString(16).padStart(32, '0');
  const id = (n: number): string => (trace * 1000 + n).toString(16).padStart(16, '0');
  const time = (offset: number): string => `${Math.round((at + offset) * 1000)}000`;
  const spans: object[] = [
    {
      traceId,
      spanId: id(1),
      name: 'GET',
      kind: 2,
      startTimeUnixNano: time(0),
      endTimeUnixNano: time(ms),
      status: { code: failed ? 2 : 0 },
      attributes: [
        text('http.request.method', 'GET'),
        text('http.route', route),
        ...(zone ? [text('berth.zone', zone)] : [])
      ]
    }
  ];
  for (let i = 0; i < queries; i++) {
    spans.push({
      traceId,
      spanId: id(2 + i),
      parentSpanId: id(1),
      name: 'SELECT',
      kind: 3,
      startTimeUnixNano: time(i * 10),
      endTimeUnixNano: time(i * 10 + 8),
      attributes: [
        text('db.system.name', 'sqlite'),
        text('db.query.text', `select * from line where id = ${i}`)
      ]
    });
  }
  const attributes = [
    text('service.name', 'berths'),
    text('host.name', host),
    text('service.version', release)
  ];
  return { resource: { attributes }, scopeSpans: [{ spans }] };
}
