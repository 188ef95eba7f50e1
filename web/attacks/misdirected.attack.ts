import { connect } from 'node:net';
import { setTimeout as pause } from 'node:timers/promises';
import { connect as connectHttp2 } from 'node:http2';
import { OTLPTraceExporter as GrpcExporter } from '@opentelemetry/exporter-trace-otlp-grpc';
import { OTLPTraceExporter as ProtoExporter } from '@opentelemetry/exporter-trace-otlp-proto';
import { BasicTracerProvider, SimpleSpanProcessor, type SpanExporter } from '@opentelemetry/sdk-trace-node';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { makeFolder, removeFolder, startServer, tracesOf, type AttackedServer } from './server';

/** Exporters that speak the wrong protocol, or to the wrong place, learn what to set. */
let data: string;
let server: AttackedServer;
beforeAll(async () => {
  data = makeFolder();
  server = await startServer(data, {});
});
afterAll(async () => {
  await server.stop('SIGKILL');
  removeFolder(data);
});

/** Exports one span by the official SDK. @returns what its exporter says went wrong. */
function failureOf(exporter: SpanExporter): Promise<string> {
  return new Promise((resolve) => {
    const watched: SpanExporter = {
      export: (spans, done) =>
        exporter.export(spans, (result) => {
          const error = result.error as (Error & { data?: string }) | undefined;
          resolve(`${error?.message ?? 'none'} ${error?.data ?? ''}`);
          done(result);
        }),
      shutdown: () => exporter.shutdown()
    };
    const provider = new BasicTracerProvider({ spanProcessors: [new SimpleSpanProcessor(watched)] });
    provider.getTracer('quay').startSpan('berth').end();
  });
}

it('an SDK that speaks gRPC is told the protocol to set', async () => {
  const failure = await failureOf(new GrpcExporter({ url: server.url, timeoutMillis: 5000 }));
  expect(failure).toContain('OTEL_EXPORTER_OTLP_PROTOCOL=http/protobuf');
  expect(failure).toMatch(/UNIMPLEMENTED/);
});

it('an SDK that sends to the wrong path is told the endpoint to set', async () => {
  const failure = await failureOf(new ProtoExporter({ url: `${server.url}/`, timeoutMillis: 5000 }));
  expect(failure).toContain(`Set OTEL_EXPORTER_OTLP_ENDPOINT=${server.url} `);
  for (const path of ['/', '/v1/trace', '/v1/spans', '/v1/traces/v1/traces']) {
    const { status, text } = await server.ask(path, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(tracesOf([{ trace: 1, span: 1 }]))
    });
    expect([path, status]).toEqual([path, 404]);
    expect((JSON.parse(text) as { message: string }).message).toContain(`not at ${path}.`);
  }
});

it('a connection that was answered before its body had come stays open once it has', async () => {
  const body = JSON.stringify(tracesOf([{ trace: 3, span: 1 }]));
  const socket = connect(server.port, '127.0.0.1');
  let heard = '';
  socket.setEncoding('utf8').on('data', (part: string) => (heard += part));
  const answers = async (count: number): Promise<void> => {
    while (heard.split('HTTP/1.1 ').length <= count && !socket.closed) await pause(50);
  };
  socket.write(
    `POST /v1/trace HTTP/1.1\r\nhost: 127.0.0.1:${server.port}\r\ncontent-type: application/json\r\ncontent-length: ${body.length}\r\n\r\n${body.slice(0, 20)}`
  );
  await answers(1);
  expect(heard).toMatch(/^HTTP\/1\.1 404 /);
  socket.write(body.slice(20));
  await pause(1500);
  socket.write(`GET / HTTP/1.1\r\nhost: 127.0.0.1:${server.port}\r\n\r\n`);
  await answers(2);
  socket.destroy();
  expect(heard).toContain('HTTP/1.1 200 ');
});

it('HTTP/2 sessions, many and silent, hold up nothing', async () => {
  const sessions = Array.from({ length: 100 }, () => connectHttp2(server.url));
  for (const session of sessions) {
    session.on('error', () => {});
    for (let i = 0; i < 20; i++)
      session
        .request({ ':method': 'POST', ':path': '/x' })
        .on('error', () => {})
        .end('x'.repeat(20_000));
  }
  const silent = Array.from({ length: 100 }, () => connect(server.port, '127.0.0.1').on('error', () => {}));
  const halves = Array.from({ length: 20 }, () => {
    const socket = connect(server.port, '127.0.0.1').on('error', () => {});
    socket.write('PRI * HT');
    return socket;
  });
  expect((await server.send('traces', tracesOf([{ trace: 2, span: 1 }]))).status).toBe(200);
  expect((await server.ask('/')).status).toBe(200);
  for (const one of [...sessions, ...silent, ...halves]) one.destroy();
  expect(server.stderr).toBe('');
});
