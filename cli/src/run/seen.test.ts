import { execFile, execFileSync, spawn } from 'node:child_process';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { gunzipSync } from 'node:zlib';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { identifyCall } from '@tromix/core/calls/identity';
import { decodeTracesProtobuf } from '@tromix/core/formats/otlp/traces';
import type { Span } from '@tromix/core/trace/span';

const ROOT = path.resolve(import.meta.dirname, '../../..');
const BIN = path.join(ROOT, 'cli/bin/tromix.mjs');
const FIXTURES = path.join(ROOT, 'run/fixtures/seen');

/** Stands for Tromix, and for what programs ask: keeps the spans it is sent, and which signals came. */
let spans: Span[] = [];
let signals = new Set<string>();
let server: http.Server;
let address: string;
let folder: string;

beforeAll(async () => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-seen-'));
  execFileSync('npm', ['run', 'build', '-w', 'run', '--silent'], { cwd: ROOT, stdio: 'ignore' });
  server = http.createServer((request, response) => {
    const parts: Buffer[] = [];
    request.on('data', (part: Buffer) => parts.push(part));
    request.on('end', () => {
      if (request.url?.startsWith('/v1/')) signals.add(request.url);
      if (request.url === '/v1/traces') {
        const body = Buffer.concat(parts);
        const plain = request.headers['content-encoding'] === 'gzip' ? gunzipSync(body) : body;
        spans.push(...(decodeTracesProtobuf(plain).spans as Span[]));
      }
      response.writeHead(200, { 'content-type': 'application/x-protobuf' }).end();
    });
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(async () => {
  await new Promise((resolve) => server.close(resolve));
  rmSync(folder, { recursive: true, force: true });
});
beforeEach(() => {
  spans = [];
  signals = new Set();
});

const run = (file: string, env: NodeJS.ProcessEnv = {}): Promise<{ code: number | null; error: string }> =>
  new Promise((resolve) => {
    const child = execFile(
      process.execPath,
      [BIN, 'run', '--no-inspect', '--to', address, '--', process.execPath, file],
      { cwd: folder, env: { ...process.env, ...env } },
      (_, __, error) => resolve({ code: child.exitCode, error })
    );
  });
const named = (name: string): Span[] => spans.filter((span) => span.name === name);

describe('a program that is run', () => {
  it('is seen with its routes and its files: those that take long are spans, all are counted', async () => {
    const { code, error } = await run(path.join(FIXTURES, 'fastify.cjs'), {
      SCRATCH: path.join(folder, 'scratch')
    });
    expect({ code, error }).toEqual({ code: 0, error: '' });
    const [vessel] = named('GET /vessels/:imo');
    expect(vessel.attributes.get('http.route')).toBe('/vessels/:imo');
    expect(vessel.attributes.get('tromix.file.calls')).toBe(51);
    expect(Number(vessel.attributes.get('tromix.file.duration'))).toBeGreaterThan(0);
    const [written] = named('file writeFile');
    expect(written.parentId).toBe(named('GET /slow')[0].spanId);
    expect(written.durationNs).toBeGreaterThan(1e6);
    expect(Object.fromEntries(written.attributes)).toMatchObject({
      'file.operation': 'writeFile',
      'file.path': path.join(folder, 'scratch'),
      'code.file.path': path.join(FIXTURES, 'fastify.cjs'),
      'code.line.number': 13
    });
    expect(identifyCall(written, 1)).toMatchObject({ kind: 'file', verb: 'writeFile' });
  });

  it('is seen in its worker threads and cluster children too', async () => {
    const { code } = await run(path.join(FIXTURES, 'threads.cjs'), { ASKED: address });
    expect(code).toBe(0);
    const asked = spans.map(({ attributes }) =>
      String(attributes.get('url.full') ?? attributes.get('http.url'))
    );
    for (const place of ['/main', '/thread', '/child'])
      expect(asked.some((url) => url.endsWith(place))).toBe(true);
    const pids = new Set(spans.map(({ resource }) => resource.pid));
    expect(pids.size).toBe(2);
  });

  it('that exits at once ends as it would', async () => {
    const file = path.join(folder, 'at-once.cjs');
    writeFileSync(file, 'process.exit(5);');
    expect(await run(file)).toEqual({ code: 5, error: '' });
  });

  it('sends what the runtime says of itself', async () => {
    const file = path.join(folder, 'lasts.cjs');
    writeFileSync(file, 'setTimeout(() => {}, 1500);');
    await run(file, { OTEL_METRIC_EXPORT_INTERVAL: '500' });
    expect(signals).toContain('/v1/metrics');
  });

  it('that is killed takes nothing with it, and the command ends by the same signal', async () => {
    const file = path.join(folder, 'killed.cjs');
    writeFileSync(file, 'console.log(process.pid); setInterval(() => {}, 1000);');
    const child = spawn(process.execPath, [BIN, 'run', '--', process.execPath, file], { cwd: folder });
    const pid = await new Promise<number>((resolve) =>
      child.stdout.once('data', (text: Buffer) => resolve(Number(text.toString())))
    );
    process.kill(pid, 'SIGKILL');
    const [code, signal] = await new Promise<[number | null, string | null]>((resolve) =>
      child.once('close', (...how) => resolve(how as [number | null, string | null]))
    );
    expect(signal ?? code).toBe('SIGKILL');
    expect(readdirSync(folder).some((name) => name.startsWith('core'))).toBe(false);
  });
});
