import { execFile } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { duration, planFrom, type PlanOptions } from './plan-options';

const BIN = path.resolve(import.meta.dirname, '../../bin/tromix.mjs');

/** Stands for the service that is asked, and for Tromix. */
let server: http.Server;
let address: string;
let folder: string;
let taken: { path: string; body: string }[] = [];

beforeAll(async () => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-load-'));
  server = http.createServer((request, response) => {
    let body = '';
    request.on('data', (part: Buffer) => (body += part.toString()));
    request.on('end', () => {
      taken.push({ path: request.url!.split('?')[0], body });
      response.writeHead(request.url === '/fails' ? 503 : 200).end('{}');
    });
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(async () => {
  await new Promise((resolve) => server.close(resolve));
  rmSync(folder, { recursive: true, force: true });
});
beforeEach(() => (taken = []));

const tromix = (...args: string[]): Promise<{ code: number | null; out: string; error: string }> =>
  new Promise((resolve) => {
    const child = execFile(process.execPath, [BIN, 'load', ...args], { cwd: folder }, (_, out, error) =>
      resolve({ code: child.exitCode, out, error })
    );
  });
const paths = (path: string): string[] => taken.filter((one) => one.path === path).map(({ body }) => body);

describe('tromix load', () => {
  it('sends users × loops requests, prints what they came to, and hands the run to Tromix', async () => {
    const { code, out, error } = await tromix(
      ...[`${address}/board`, '--users', '10', '--ramp-up', '500ms', '--loops', '10', '--to', address]
    );
    expect({ code, error }).toEqual({ code: 0, error: '' });
    expect(out).toContain('100 requests in');
    expect(paths('/board')).toHaveLength(100);
    const [run] = paths('/api/evidence').map((body) => JSON.parse(body) as { format: string; key: string });
    expect(run.format).toBe('tromix-load-run');
    expect(paths('/v1/traces').join('').split(`"traceId":"${run.key}`)).toHaveLength(101);
  });

  it('prints JSON, saves a file that can be inspected, and says where Tromix does not answer', async () => {
    const { code, out, error } = await tromix(
      ...[`${address}/board`, '--json', '--save', 'run.json', '--to', 'http://127.0.0.1:1']
    );
    expect(code).toBe(0);
    expect(error).toContain('Tromix does not answer at http://127.0.0.1:1');
    expect(JSON.parse(out)).toMatchObject({
      tromix: 1,
      results: [{ kind: 'load', figures: { samples: 1 } }]
    });
    expect(JSON.parse(readFileSync(path.join(folder, 'run.json'), 'utf8'))).toMatchObject({ version: 1 });
  });

  it('exits with 1 where a request failed', async () => {
    const { code, out } = await tromix(`${address}/fails`, '--no-keep');
    expect(code).toBe(1);
    expect(out).toContain('the status was not the expected one');
  });

  it.each<[string[], string]>([
    [[], 'Expected one of an address, --plan, --curl and --har'],
    [['http://10.0.0.7/'], 'TROMIX_LOAD_TARGETS'],
    [['--curl', 'curl -k https://127.0.0.1/'], 'The option -k is not known here'],
    [['--plan', 'no-such.json'], 'There is no file no-such.json'],
    [['http://127.0.0.1/', '--users', '0'], 'users: expected at least 1'],
    [['http://127.0.0.1/', '--ramp-up', 'soon'], 'Expected a length such as 10s'],
    [['http://127.0.0.1/', '--uesrs', '3'], 'Did you mean --users?']
  ])('%j is refused with 2', async (args, words) => {
    const { code, error } = await tromix(...args);
    expect(code).toBe(2);
    expect(error).toContain(words);
  });
});

describe('a plan from options', () => {
  const NONE: PlanOptions = { header: [], expect: [], follow: true };
  it('reads lengths with their unit', () =>
    expect(['10s', '500ms', '2m', '1h', '7', '1.5s'].map(duration)).toEqual([10, 0.5, 120, 3600, 7, 1.5]));

  it('lets options win over a file', () => {
    const file = path.join(folder, 'plan.json');
    writeFileSync(file, JSON.stringify({ users: 3, loops: 5, steps: [{ url: 'http://127.0.0.1/' }] }));
    const read = planFrom(undefined, { ...NONE, plan: file, users: 7, length: 60 });
    expect(read).toMatchObject({ ok: true, plan: { users: 7, loops: 0, seconds: 60 } });
    writeFileSync(file, '{');
    expect(planFrom(undefined, { ...NONE, plan: file })).toMatchObject({ ok: false });
  });

  it('takes a body for a POST, and an address without a scheme for HTTP', () =>
    expect(planFrom('127.0.0.1:3000/entries', { ...NONE, body: '{}' })).toMatchObject({
      plan: { steps: [{ method: 'POST', url: 'http://127.0.0.1:3000/entries', body: '{}' }] }
    }));
});
