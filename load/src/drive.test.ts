import http from 'node:http';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { driveLoad, type Step } from './drive';

let server: http.Server;
let address: string;
let seen: string[];
let status: number;

beforeEach(async () => {
  seen = [];
  status = 200;
  server = http.createServer((request, response) => {
    seen.push(`${request.method} ${request.url}`);
    request.resume();
    response.writeHead(status).end('{}');
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  address = `http://127.0.0.1:${(server.address() as { port: number }).port}`;
});
afterEach(() => new Promise((resolve) => server.close(resolve)));

const steps: Step[] = [
  { weight: 3, method: 'GET', path: () => '/board' },
  { weight: 1, method: 'POST', path: () => '/entries', body: () => ({ pilot: 1 }), burst: 2 }
];
const options = { steps, users: 3, rampUpSeconds: 0, loops: 4, thinkSeconds: 0 };

describe('driveLoad', () => {
  it('ends after the loops of every user, and counts what it sent', async () => {
    const result = await driveLoad({ ...options, address });
    expect(result.requests).toBe(seen.length);
    expect(result.requests).toBeGreaterThanOrEqual(12);
    expect(result.failed).toBe(0);
  });

  it('counts failures and goes on', async () => {
    status = 500;
    const result = await driveLoad({ ...options, address });
    expect(result.failed).toBe(result.requests);
  });

  it('stops when aborted', async () => {
    const stop = new AbortController();
    const running = driveLoad({ ...options, loops: Infinity, address, signal: stop.signal });
    setTimeout(() => stop.abort(), 50);
    expect((await running).requests).toBeGreaterThan(0);
  });

  it.each([
    'http://10.0.0.1:80',
    'http://quillhaven.example',
    'http://127.0.0.1.evil.example',
    'https://localhost',
    'http://localhost@10.0.0.1'
  ])('never sends to %s', async (elsewhere) => {
    await expect(driveLoad({ ...options, address: elsewhere })).rejects.toThrow(/loopback/);
  });
});
