import { readFileSync } from 'node:fs';
import { gunzipSync, gzipSync } from 'node:zlib';
import { ROOT_CONTEXT, SpanKind, trace, type Tracer } from '@opentelemetry/api';
import { OTLPTraceExporter as JsonExporter } from '@opentelemetry/exporter-trace-otlp-http';
import { OTLPTraceExporter as ProtobufExporter } from '@opentelemetry/exporter-trace-otlp-proto';
import { resourceFromAttributes } from '@opentelemetry/resources';
import { NodeTracerProvider, SimpleSpanProcessor } from '@opentelemetry/sdk-trace-node';
import { expect, test, type APIRequestContext, type APIResponse } from '@playwright/test';
import { ExportTraceServiceResponse, RpcStatus } from '../../core/src/formats/otlp/schema';
import { BESIDE, EMPTY } from './servers';
import { tryUntil } from './try-until';

test.use({ baseURL: EMPTY.url });

/** A request with a query inside, by the real SDK. */
function work(tracer: Tracer): { traceId: string; spanId: string } {
  const root = tracer.startSpan('GET /quays', {
    kind: SpanKind.SERVER,
    attributes: { 'http.request.method': 'GET', 'http.route': '/quays' }
  });
  const inside = trace.setSpan(ROOT_CONTEXT, root);
  const attributes = {
    'db.system.name': 'sqlite',
    'db.query.text': "select * from quay where name = 'hush'"
  };
  tracer.startSpan('SELECT', { kind: SpanKind.CLIENT, attributes }, inside).end();
  root.end();
  return root.spanContext();
}

for (const [name, Exporter] of [
  ['JSON', JsonExporter],
  ['protobuf', ProtobufExporter]
] as const) {
  test(`takes what the real exporter sends in ${name}, and shows it`, async ({ page }) => {
    await page.goto('/requests?last=1h');
    const exporter = new Exporter({ url: `${EMPTY.url}/v1/traces` });
    const service = `quays-${name.toLowerCase()}`;
    const provider = new NodeTracerProvider({
      resource: resourceFromAttributes({ 'service.name': service, 'service.version': '1.0' }),
      spanProcessors: [new SimpleSpanProcessor(exporter)]
    });
    const { traceId, spanId } = work(provider.getTracer('test'));
    await provider.forceFlush();
    await provider.shutdown();
    // The open page hears of it by itself.
    await expect(page.getByRole('link', { name: new RegExp(`${service}.*GET /quays`) })).toBeVisible({
      timeout: 60_000
    });
    await page.goto(`/requests/${traceId}/${spanId}`);
    await expect(page.getByRole('row', { name: /select \* from quay where name = \?/ })).toBeVisible();
    expect(await page.content()).not.toContain('hush');
  });
}

test('puts together what two services send of one request, whichever comes first', async ({ page }) => {
  const providerOf = (service: string): NodeTracerProvider =>
    new NodeTracerProvider({
      resource: resourceFromAttributes({ 'service.name': service, 'host.name': `${service}-1` }),
      spanProcessors: [new SimpleSpanProcessor(new ProtobufExporter({ url: `${EMPTY.url}/v1/traces` }))]
    });
  const [asking, answering] = [providerOf('pilots'), providerOf('charts')];
  const start = Date.now() - 5000;
  const [pilots, charts] = [asking.getTracer('test'), answering.getTracer('test')];
  const root = pilots.startSpan('GET /route', {
    kind: SpanKind.SERVER,
    startTime: start,
    attributes: { 'http.request.method': 'GET', 'http.route': '/route' }
  });
  const call = pilots.startSpan(
    'GET',
    {
      kind: SpanKind.CLIENT,
      startTime: start + 20,
      attributes: { 'http.request.method': 'GET', 'url.full': 'http://charts/depths?area=12' }
    },
    trace.setSpan(ROOT_CONTEXT, root)
  );
  // What travels between the two is the context alone, as with the W3C header.
  const far = trace.setSpanContext(ROOT_CONTEXT, { ...call.spanContext(), isRemote: true });
  const inner = charts.startSpan(
    'GET /depths',
    {
      kind: SpanKind.SERVER,
      startTime: start + 30,
      attributes: { 'http.request.method': 'GET', 'http.route': '/depths' }
    },
    far
  );
  inner.end(start + 80);
  await answering.forceFlush();
  call.end(start + 90);
  root.end(start + 100);
  await asking.forceFlush();
  await Promise.all([asking.shutdown(), answering.shutdown()]);

  const { traceId, spanId } = root.spanContext();
  await tryUntil(async (patience) => {
    await page.goto(`/requests/${traceId}/${spanId}`);
    await expect(page.getByRole('heading', { level: 1 })).toHaveText(/^100\s*ms$/, patience);
    await expect(page.getByRole('row', { name: /GET \/depths/ })).toBeVisible(patience);
  });
  await expect(page.getByRole('row', { name: 'charts · charts-1' })).toBeVisible();
  await page.getByRole('link', { name: 'by service' }).click();
  // 20 ms before and after the call, and its 20 ms on the way: 50 of the pilots', 50 of the charts'.
  const services = page.getByRole('table');
  await expect(services.getByRole('row', { name: /charts/ })).toContainText(/50(?:\.0)?\s*ms/);
  await expect(services.getByRole('row', { name: /pilots/ })).toContainText(/50(?:\.0)?\s*ms/);
});

const traces = (request: APIRequestContext, data: string | Buffer, headers: Record<string, string>) =>
  request.post('/v1/traces', { data: Buffer.from(data), headers });
const JSON_TYPE = { 'content-type': 'application/json' };
const span = (more: object): object => ({
  traceId: 'd'.repeat(32),
  spanId: 'e'.repeat(16),
  name: 'x',
  startTimeUnixNano: `${Date.now()}000000`,
  endTimeUnixNano: `${Date.now() + 5}000000`,
  ...more
});
const body = (...spans: object[]): string => JSON.stringify({ resourceSpans: [{ scopeSpans: [{ spans }] }] });

test('answers bad input by the standard', async ({ request }) => {
  const cases: [string | Buffer, Record<string, string>, number, RegExp][] = [
    ['x', { 'content-type': 'text/plain' }, 415, /content type/],
    ['{}', { ...JSON_TYPE, 'content-encoding': 'br' }, 415, /content encoding/],
    ['{"a":', JSON_TYPE, 400, /does not parse/],
    ['{}', JSON_TYPE, 400, /resourceSpans/],
    [
      gzipSync(body(span({}))).subarray(0, 40),
      { ...JSON_TYPE, 'content-encoding': 'gzip' },
      400,
      /ends early/
    ],
    [Buffer.alloc(17 * 1024 * 1024, 32), JSON_TYPE, 413, /TROMIX_MAX_BATCH_BYTES/],
    [
      gzipSync(Buffer.alloc(80 * 1024 * 1024)),
      { ...JSON_TYPE, 'content-encoding': 'gzip' },
      413,
      /TROMIX_MAX_INFLATED_BYTES/
    ]
  ];
  for (const [data, headers, status, words] of cases) {
    const answer = await traces(request, data, headers);
    expect(answer.status()).toBe(status);
    const said = (await answer.json()) as { code: number; message: string };
    expect(said.message).toMatch(words);
    expect(said.code).toBeGreaterThan(0);
  }
  const binary = await traces(request, Buffer.from([0x12, 0x02, 0x61, 0x62]), {
    'content-type': 'application/x-protobuf'
  });
  expect(binary.status()).toBe(400);
  expect(binary.headers()['content-type']).toBe('application/x-protobuf');
  expect(RpcStatus.decode(await binary.body())).toMatchObject({
    message: expect.stringContaining('resourceSpans')
  });
});

test('takes the good spans of a batch and tells of the others as partial success', async ({ request }) => {
  const mixed = await traces(
    request,
    body(span({}), span({ traceId: 'zz' }), span({ spanId: 'f'.repeat(16), endTimeUnixNano: '1000' })),
    JSON_TYPE
  );
  expect(mixed.status()).toBe(200);
  expect(await mixed.json()).toMatchObject({
    partialSuccess: {
      rejectedSpans: '1',
      errorMessage: expect.stringMatching(/trace id.*ends before it starts/)
    }
  });
  const clean = await traces(request, body(span({ spanId: 'a'.repeat(16) })), JSON_TYPE);
  expect(await clean.json()).toEqual({});
  expect(ExportTraceServiceResponse.name).toBe('ExportTraceServiceResponse');
});

test('shows a trace whose parent never comes, with the place where it is missing', async ({
  page,
  request
}) => {
  const traceId = 'c'.repeat(32);
  await traces(
    request,
    body(span({ traceId, spanId: '1'.repeat(16), parentSpanId: '2'.repeat(16), name: 'lonely work' })),
    JSON_TYPE
  );
  await tryUntil(async (patience) => {
    await page.goto(`/requests/${traceId}/${'2'.repeat(16)}`);
    await expect(page.getByRole('row', { name: /lonely work/ })).toBeVisible(patience);
  });
  await expect(page.getByRole('row', { name: /\(missing parent\)/ })).toBeVisible();
  await expect(page.getByRole('complementary')).toContainText('parent that has not come');
});

test('traces that come old are said to be, and kept where somebody wishes', async ({ page, request }) => {
  const old = BigInt(Date.now() - 45 * 86_400_000) * 1_000_000n;
  const answer = await traces(
    request,
    body(
      span({
        traceId: '01d'.padEnd(32, '5'),
        name: 'old work',
        startTimeUnixNano: String(old),
        endTimeUnixNano: String(old + 5_000_000n)
      })
    ),
    JSON_TYPE
  );
  expect(await answer.text()).toContain('older than the 30 days');
  await page.goto(`${EMPTY.url}/evidence`);
  const list = page.getByRole('region', { name: 'Old traces' });
  await expect(list.getByText('1 trace')).toBeVisible();
  await list.getByRole('button', { name: 'Keep them' }).click();
  await expect(list.getByText('kept', { exact: true })).toBeVisible();
});

test('root spans that serve nobody are listed apart, and lead to themselves', async ({ page, request }) => {
  const name = 'nightly tide table';
  await traces(
    request,
    body(
      span({ traceId: 'e'.repeat(32), spanId: '8'.repeat(16), name, kind: 1 }),
      // The service serves: its other root spans are background work.
      span({ traceId: 'f'.repeat(32), spanId: '9'.repeat(16), name: 'served by tides', kind: 2 })
    ),
    JSON_TYPE
  );
  await tryUntil(async (patience) => {
    await page.goto('/requests/background');
    await expect(page.getByRole('row').filter({ hasText: name })).toBeVisible(patience);
  });
  await page.goto('/requests');
  await expect(page.getByRole('row').filter({ hasText: 'served by tides' })).toBeVisible();
  await expect(page.getByRole('row').filter({ hasText: name })).toHaveCount(0);
  await page.getByRole('link', { name: /of background work/ }).click();
  await page.getByRole('link', { name: new RegExp(name) }).click();
  await expect(page.getByRole('complementary')).toContainText('its root span serves no caller');
});

test('shows names from outside as text', async ({ page, request }) => {
  const traceId = 'b'.repeat(32);
  const name = '<img src=x onerror=window.broken=1>';
  await traces(
    request,
    body(
      span({
        traceId,
        spanId: '3'.repeat(16),
        name,
        attributes: [{ key: '__proto__', value: { stringValue: '<b>bold</b>' } }]
      })
    ),
    JSON_TYPE
  );
  await tryUntil(async (patience) => {
    await page.goto(`/requests/${traceId}/${'3'.repeat(16)}`);
    await expect(page.getByRole('row').filter({ hasText: name })).toBeVisible(patience);
  });
  await page.getByText('1 attributes').click();
  await expect(page.getByText('<b>bold</b>')).toBeVisible();
  expect(await page.evaluate(() => (window as unknown as { broken?: number }).broken)).toBeUndefined();
});

test('draws what comes twice: like calls of two processes under one parent, and a frame that calls itself', async ({
  page,
  request
}) => {
  const traceId = 'd'.repeat(32);
  const of = (host: string, ...spans: object[]): object => ({
    resource: {
      attributes: [
        { key: 'service.name', value: { stringValue: 'echoes' } },
        { key: 'host.name', value: { stringValue: host } }
      ]
    },
    scopeSpans: [{ spans }]
  });
  const call = (id: number): object =>
    span({
      traceId,
      spanId: `${id}`.padStart(16, '0'),
      parentSpanId: '4'.repeat(16),
      name: 'SELECT',
      kind: 3,
      attributes: [
        { key: 'db.system.name', value: { stringValue: 'sqlite' } },
        { key: 'db.query.text', value: { stringValue: `select a from b where c = ${id}` } }
      ]
    });
  const stack = [
    'Error: too deep',
    ...Array.from({ length: 4 }, () => '    at sound (/quay/echo.ts:7:3)')
  ].join('\n');
  const root = span({
    traceId,
    spanId: '4'.repeat(16),
    name: 'echo',
    status: { code: 2 },
    events: [
      {
        name: 'exception',
        timeUnixNano: `${Date.now()}000000`,
        attributes: [
          { key: 'exception.type', value: { stringValue: 'RangeError' } },
          { key: 'exception.stacktrace', value: { stringValue: stack } }
        ]
      }
    ]
  });
  const faults: string[] = [];
  page.on('pageerror', (error) => faults.push(error.message));
  await traces(
    request,
    JSON.stringify({ resourceSpans: [of('pier-1', root, call(1), call(2)), of('pier-2', call(3), call(4))] }),
    JSON_TYPE
  );
  await tryUntil(async (patience) => {
    await page.goto(`/requests/${traceId}/${'4'.repeat(16)}`);
    await expect(page.getByRole('row').filter({ hasText: 'select a from b' })).toHaveCount(2, patience);
  });
  await page.getByRole('row').filter({ hasText: 'echo' }).last().click();
  // What repeats is drawn once, with how often.
  await expect(page.getByText('4 times, one in the other:')).toBeVisible();
  await expect(page.getByText('/quay/echo.ts:7')).toHaveCount(1);
  expect(faults).toEqual([]);
});

test('takes OTLP profiles where it is told to: a recording of the process they name', async ({
  page,
  request
}) => {
  const recorded = readFileSync(new URL('../../recordings/profiles/otlp/jvm.json.gz', import.meta.url));
  // Of now, as it would be sent.
  const shift = BigInt(Date.now() - 60_000) * 1_000_000n - 1_790_000_000_000_000_000n;
  const message = gunzipSync(recorded)
    .toString()
    .replace(/"17900\d{14}"/g, (told) => `"${BigInt(told.slice(1, -1)) + shift}"`);
  const send = (url: string, body: Buffer): Promise<APIResponse> =>
    request.post(`${url}/v1development/profiles`, {
      data: body,
      headers: { 'content-type': 'application/json', 'content-encoding': 'gzip' }
    });
  const off = await send(EMPTY.url, gzipSync(message));
  expect([off.status(), await off.text()]).toEqual([404, expect.stringContaining('TROMIX_OTLP_PROFILES=1')]);

  const answer = await send(BESIDE.url, gzipSync(message));
  expect([answer.status(), await answer.text()]).toEqual([200, '{}']);
  const broken = await send(BESIDE.url, gzipSync(message.slice(0, 500)));
  expect(broken.status()).toBe(400);

  await page.goto(`${BESIDE.url}/profiles`);
  await page
    .getByRole('link', { name: /^tides\.otlp/ })
    .first()
    .click();
  await expect(page.getByTestId('flame')).toBeVisible();
  await expect(page.getByRole('complementary', { name: 'Reading' })).toContainText(/Tides\./);
  // Its sums stand beside those of other recordings.
  await tryUntil(async (patience) => {
    await page.goto(`${BESIDE.url}/profiles/scope?service=tides&host=quay-3&release=8.2`);
    await expect(page.getByTestId('flame')).toBeVisible(patience);
  });
});
