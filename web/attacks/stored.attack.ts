import { gzipSync } from 'node:zlib';
import { afterAll, beforeAll, expect, it } from 'vitest';
import {
  makeFolder,
  removeFolder,
  startServer,
  traceIdOf,
  tracesOf,
  type AttackedServer,
  type SentSpan
} from './server';

/** No single request takes the server down, and nothing that was stored stops a start. The limit is the promise of docs/security.md. */
const MOST_MEMORY = 1.2 * 1024 ** 3;
/** Spans of one trace that are accounted for. */
const MAX_SPANS = 25_000;
let data: string;
let server: AttackedServer;
beforeAll(async () => {
  data = makeFolder();
  server = await startServer(data, { TROMIX_MAX_TRACE_SPANS: String(MAX_SPANS) });
});
afterAll(async () => {
  await server.stop('SIGKILL');
  removeFolder(data);
});
/** It still takes spans, books them and shows them, before and after a restart. */
let honest = 1_000_000;
async function expectAlive(restarts = [false]): Promise<void> {
  for (const restart of restarts) {
    if (restart) {
      await server.stop('SIGKILL');
      server = await startServer(data, { TROMIX_MAX_TRACE_SPANS: String(MAX_SPANS) });
    }
    const name = `honest ${honest++}`;
    expect((await server.send('traces', tracesOf([{ trace: honest, span: 1, name }]))).status).toBe(200);
    await server.until(`/api/palette?q=${encodeURIComponent(name)}`, (text) => text.includes(name));
    expect(server.peakMemory()).toBeLessThan(MOST_MEMORY);
  }
}

it('halves of characters in every field of every signal', async () => {
  const half = '\ud83d';
  const attribute = (key: string): object => ({ key, value: { stringValue: `a${half}b` } });
  const at = String(BigInt(Date.now()) * 1_000_000n);
  const resource = {
    attributes: ['service.name', 'host.name', 'service.version', half].map(attribute)
  };
  const span = {
    traceId: traceIdOf(1),
    spanId: '1'.padStart(16, '0'),
    kind: 2,
    name: half,
    startTimeUnixNano: at,
    endTimeUnixNano: at,
    status: { code: 2, message: half },
    attributes: [attribute('x'), attribute(half)],
    events: [{ name: half, timeUnixNano: at, attributes: [attribute(half)] }]
  };
  expect(
    (await server.send('traces', { resourceSpans: [{ resource, scopeSpans: [{ spans: [span] }] }] })).status
  ).toBe(200);
  const record = {
    traceId: traceIdOf(1),
    timeUnixNano: at,
    body: { stringValue: half },
    attributes: [attribute(half)]
  };
  expect(
    (await server.send('logs', { resourceLogs: [{ resource, scopeLogs: [{ logRecords: [record] }] }] }))
      .status
  ).toBe(200);
  const metric = { name: 'process.memory.usage', gauge: { dataPoints: [{ timeUnixNano: at, asInt: '5' }] } };
  expect(
    (await server.send('metrics', { resourceMetrics: [{ resource, scopeMetrics: [{ metrics: [metric] }] }] }))
      .status
  ).toBe(200);
  expect(
    (await server.upload(`a${half};b${half} 12\nmain;c 3\n`, 'service=x%ED%A0%80&name=%ED%B0%80')).status
  ).toBe(201);
  const profile = {
    nodes: [
      { id: 1, callFrame: { functionName: '@', url: '', lineNumber: 0, columnNumber: 0 }, children: [] }
    ],
    startTime: 1,
    endTime: 9,
    samples: [1],
    timeDeltas: [5]
  };
  expect((await server.upload(JSON.stringify(profile).replace('@', '\\ud800'))).status).toBe(201);
  await expectAlive([false, true]);
  expect((await server.ask('/evidence/__data.json')).status).toBe(200);
});

it('times, numbers and sizes that no number holds', async () => {
  const absurd = [2n ** 64n - 1n, 2n ** 63n, 2n ** 53n * 1000n + 5n];
  for (const [i, start] of absurd.entries()) {
    const { status, text } = await server.send(
      'traces',
      tracesOf([{ trace: 50 + i, span: 1, start, lengthNs: 0n }])
    );
    expect([status, text]).toEqual([200, expect.stringContaining('outside the years 1970 to 2200')]);
  }
  const at = String(BigInt(Date.now()) * 1_000_000n);
  for (const value of [1e308, -1e308]) {
    const metric = {
      name: 'process.memory.usage',
      gauge: { dataPoints: [{ timeUnixNano: at, asDouble: value }] }
    };
    const { status, text } = await server.send('metrics', {
      resourceMetrics: [{ scopeMetrics: [{ metrics: [metric] }] }]
    });
    expect([status, text]).toEqual([200, expect.stringContaining('"rejectedDataPoints":"1"')]);
  }
  const upload = await server.upload(
    `a;b ${'9'.repeat(400)}\nc;d 1\na;c 9007199254740993\na;e 9007199254740993\n`
  );
  expect([upload.status, upload.text]).toEqual([400, expect.stringContaining('weight-out-of-range')]);
  for (const startedAtUs of ['9999999999999999', '99999999999999999', '0', '-1', '1e9'])
    expect((await server.upload('a;b 1\nc;d 2\n', `startedAtUs=${startedAtUs}`)).status).toBe(400);
  expect((await server.upload('a;b 1\nc;d 2\n', 'pid=9999999999')).status).toBe(400);
  await expectAlive([false, true]);
});

/** A chain of nested entry spans, each inside the one before, or each outlasting it. */
function chain(trace: number, depth: number, outlasting: boolean): SentSpan[] {
  const begin = BigInt(Date.now() - 60_000) * 1_000_000n;
  return Array.from({ length: depth }, (_, i) => ({
    trace,
    span: i + 1,
    parent: i || undefined,
    start: begin + BigInt(i) * 1000n,
    lengthNs: outlasting ? 30_000_000_000n : 30_000_000_000n - BigInt(i) * 2000n
  }));
}

it('a chain of 8,000 nested entry spans is booked, and holds up no other trace', async () => {
  const body = gzipSync(JSON.stringify(tracesOf(chain(60, 8000, false))));
  expect(body.length).toBeLessThan(400_000);
  const sent = await server.ask('/v1/traces', {
    method: 'POST',
    headers: { 'content-type': 'application/json', 'content-encoding': 'gzip' },
    body
  });
  expect(sent.status).toBe(200);
  await expectAlive();
  expect((await server.ask(`/api/requests/${traceIdOf(60)}/${'1'.padStart(16, '0')}/otlp`)).status).toBe(200);
  await server.until('/requests/__data.json', (text) => text.includes(traceIdOf(60)));
});

it('so is one of 20,000 in which each outlasts the one around it', async () => {
  expect((await server.send('traces', tracesOf(chain(61, 20_000, true)))).status).toBe(200);
  await server.until('/requests/__data.json', (text) => text.includes(traceIdOf(61)));
  await expectAlive();
});

it('a trace larger than may be is set aside by name, and can be exported', async () => {
  const root = { trace: 62, span: 1, lengthNs: 30_000_000_000n };
  const spans = Array.from({ length: MAX_SPANS }, (_, i) => ({ trace: 62, span: i + 2, parent: 1 }));
  expect((await server.send('traces', tracesOf([root, ...spans]))).status).toBe(200);
  await server.until('/evidence/__data.json', (text) => text.includes(traceIdOf(62)));
  await expectAlive([false, true]);
  const list = (await server.ask('/evidence/__data.json')).text;
  expect(list).toContain('TROMIX_MAX_TRACE_SPANS');
  const exported = await server.ask(`/api/requests/${traceIdOf(62)}/0/otlp`);
  expect(exported.status).toBe(200);
  expect(exported.text.split('"spanId"').length).toBe(MAX_SPANS + 2);
});

it('batches of very many empty parts are refused before they fill the memory', async () => {
  const many = await server.send(
    'traces',
    `{"resourceSpans":[${'{},'.repeat(6_000_000)}{}]}`.slice(0, 16_000_000)
  );
  expect(many.status).toBe(400);
  const packed = gzipSync(`{"resourceSpans":[${'{},'.repeat(20_000_000)}{}]}`);
  const refused = await server.ask('/v1/traces', {
    method: 'POST',
    headers: { 'content-type': 'application/json', 'content-encoding': 'gzip' },
    body: packed
  });
  expect([refused.status, refused.text]).toEqual([400, expect.stringContaining('Send smaller batches')]);
  // Protobuf: 30 million empty spans in one group.
  const empty = Buffer.alloc(30_000_000, Buffer.from([0x12, 0x00]));
  const varint = (value: number): number[] =>
    value < 128 ? [value] : [(value & 127) | 128, ...varint(value >>> 7)];
  const scope = Buffer.concat([Buffer.from([0x12, ...varint(empty.length)]), empty]);
  const group = Buffer.concat([Buffer.from([0x0a, ...varint(scope.length)]), scope]);
  const wire = await server.ask('/v1/traces', {
    method: 'POST',
    headers: { 'content-type': 'application/x-protobuf', 'content-encoding': 'gzip' },
    body: gzipSync(group)
  });
  expect(wire.status).toBe(400);
  await expectAlive();
});

it('bombs of gzip, and nesting without end, are refused in words', async () => {
  const bomb = gzipSync(Buffer.alloc(300_000_000));
  const inflated = await server.ask('/v1/traces', {
    method: 'POST',
    headers: { 'content-type': 'application/json', 'content-encoding': 'gzip' },
    body: bomb
  });
  expect(inflated.status).toBe(413);
  expect((await server.send('traces', '['.repeat(5_000_000))).status).toBe(400);
  expect((await server.send('traces', `{"resourceSpans":${'[{"a":'.repeat(500_000)}`)).status).toBe(400);
  expect((await server.upload(gzipSync(Buffer.alloc(800_000_000)))).status).toBe(413);
  await expectAlive([false, true]);
});
