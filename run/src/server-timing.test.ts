import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer, type ServerResponse } from 'node:http';
import os from 'node:os';
import path from 'node:path';
import { trace, TraceFlags } from '@opentelemetry/api';
import { buildSync } from 'esbuild';
import { describe, expect, it } from 'vitest';
import { noteServerTiming } from './server-timing';

const [TRACE, SPAN] = ['4bf92f3577b34da6a3ce929d0e0e4736', '00f067aa0ba902b7'];
const span = trace.wrapSpanContext({ traceId: TRACE, spanId: SPAN, traceFlags: TraceFlags.SAMPLED });

async function headerOf(answer: (response: ServerResponse) => void): Promise<string | null> {
  const server = createServer((_, response) => answer(response));
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as { port: number };
  const { headers } = await fetch(`http://127.0.0.1:${port}/`);
  server.close();
  return headers.get('server-timing');
}

describe('Server-Timing', () => {
  it('says which span answers', async () => {
    const header = await headerOf((response) => {
      noteServerTiming(span, response);
      response.end('ok');
    });
    expect(header).toBe(`traceparent;desc="00-${TRACE}-${SPAN}-01"`);
  });

  it('leaves an answer alone whose headers are sent', async () => {
    const header = await headerOf((response) => {
      response.writeHead(200, { 'server-timing': 'db;dur=3' });
      response.flushHeaders();
      noteServerTiming(span, response);
      response.end('ok');
    });
    expect(header).toBe('db;dur=3');
  });

  it('is given by the instrumentation of a real server, where it is wished', async () => {
    const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-timing-'));
    const built = path.join(folder, 'server-timing.cjs');
    buildSync({
      entryPoints: [path.join(import.meta.dirname, 'server-timing.ts')],
      format: 'cjs',
      outfile: built
    });
    const program = `
      const { noteServerTiming } = require(${JSON.stringify(built)});
      const { HttpInstrumentation } = require('@opentelemetry/instrumentation-http');
      const { registerInstrumentations } = require('@opentelemetry/instrumentation');
      const { NodeTracerProvider } = require('@opentelemetry/sdk-trace-node');
      new NodeTracerProvider().register();
      registerInstrumentations({ instrumentations: [new HttpInstrumentation({ responseHook: noteServerTiming })] });
      const http = require('node:http');
      http.createServer((_, response) => response.end('ok')).listen(0, '127.0.0.1', function () {
        http.get({ port: this.address().port, host: '127.0.0.1' }, ({ headers }) => {
          console.log(headers['server-timing']);
          process.exit(0);
        });
      });`;
    const child = spawn(process.execPath, ['-e', program], { cwd: path.resolve(import.meta.dirname, '..') });
    let said = '';
    child.stdout.on('data', (part: Buffer) => (said += part.toString()));
    await new Promise((resolve) => child.once('exit', resolve));
    rmSync(folder, { recursive: true, force: true });
    expect(said).toMatch(/^traceparent;desc="00-[0-9a-f]{32}-[0-9a-f]{16}-01"/);
  });
});
