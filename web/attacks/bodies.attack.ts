import { createServer, type Server } from 'node:http';
import { connect, type Socket } from 'node:net';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { makeFolder, removeFolder, startServer, tracesOf, type AttackedServer } from './server';

/** Bodies and connections are bounded: what holds memory or a place is refused or closed, and honest senders go on. */
const MOST_MEMORY = 1.2 * 1024 ** 3;
const TOKEN = 'harbour-master-of-quillhaven';
let data: string;
let server: AttackedServer;
let inspector: Server;
beforeAll(async () => {
  data = makeFolder();
  inspector = createServer((_, response) => {
    // A list that never ends.
    response.writeHead(200, { 'content-type': 'application/json' });
    response.write('[');
    const more = (): void => {
      while (!response.destroyed && response.write(`${'{"title":"x"},'.repeat(10_000)}`));
      if (!response.destroyed) response.once('drain', more);
    };
    more();
  }).listen(0, '127.0.0.1');
  await new Promise((resolve) => inspector.once('listening', resolve));
  server = await startServer(data, {
    TROMIX_TOKEN: TOKEN,
    TROMIX_MAX_PAGES: '5',
    TROMIX_INSPECT: `127.0.0.1:${(inspector.address() as { port: number }).port}`
  });
});
afterAll(async () => {
  inspector.closeAllConnections();
  inspector.close();
  await server.stop('SIGKILL');
  removeFolder(data);
});
const signedIn = { authorization: `Bearer ${TOKEN}` };
async function expectAlive(): Promise<void> {
  expect((await server.send('traces', tracesOf([{ trace: 1, span: 1 }]), signedIn)).status).toBe(200);
  expect(server.peakMemory()).toBeLessThan(MOST_MEMORY);
}

/** A POST of which only the beginning is sent. @returns the socket, and what is answered until it closes. */
function begin(
  path: string,
  headers: Record<string, string>,
  body = ''
): { socket: Socket; answer: Promise<string> } {
  const socket = connect(server.port, '127.0.0.1');
  let text = '';
  const answer = new Promise<string>((resolve) => {
    socket.on('data', (part) => (text += part.toString()));
    socket.on('close', () => resolve(text));
    socket.on('error', () => resolve(text));
  });
  const lines = Object.entries(headers).map(([name, value]) => `${name}: ${value}\r\n`);
  socket.write(`POST ${path} HTTP/1.1\r\nhost: 127.0.0.1\r\n${lines.join('')}\r\n${body}`);
  return { socket, answer };
}

it('a body of gigabytes at the sign-in is refused for its length, or at its first kilobytes', async () => {
  const announced = begin('/login', {
    accept: 'text/html',
    'content-type': 'application/x-www-form-urlencoded',
    'content-length': '1800000000'
  });
  announced.socket.write(Buffer.alloc(1_000_000));
  expect(await announced.answer).toContain(' 413 ');
  const endless = begin('/login', {
    'content-type': 'application/x-www-form-urlencoded',
    'transfer-encoding': 'chunked'
  });
  const chunk = `10000\r\n${'a'.repeat(65_536)}\r\n`;
  let sent = 0;
  while (!endless.socket.destroyed && endless.socket.writable && sent < 300) {
    sent++;
    if (!endless.socket.write(chunk)) await new Promise((resolve) => setTimeout(resolve, 10));
  }
  endless.socket.destroy();
  await expectAlive();
});

it('a hundred bodies of 15 MiB held open are turned away beyond what may be under way', async () => {
  const size = 15 * 1024 * 1024;
  const held = Array.from({ length: 100 }, () =>
    begin('/v1/traces', {
      ...signedIn,
      'content-type': 'application/json',
      'content-length': String(size)
    })
  );
  const part = Buffer.alloc(size - 1, 0x20);
  for (const { socket } of held) socket.write(part);
  const first = await Promise.race([
    Promise.any(
      held.map(({ answer }) =>
        answer.then((text) => (text.includes(' 503 ') ? text : Promise.reject(new Error('other'))))
      )
    ),
    new Promise<string>((_, reject) => setTimeout(() => reject(new Error('none was turned away')), 120_000))
  ]).catch((cause: unknown) => String(cause));
  expect(first).toContain('TROMIX_MAX_UNDER_WAY_BYTES');
  for (const { socket } of held) socket.destroy();
  await new Promise((resolve) => setTimeout(resolve, 500));
  await expectAlive();
});

it('lines for live news are bounded', async () => {
  const lines = await Promise.all(
    Array.from({ length: 7 }, async () => {
      const stop = new AbortController();
      const response = await fetch(`${server.url}/api/live`, { headers: signedIn, signal: stop.signal });
      return { response, stop };
    })
  );
  expect(lines.map(({ response }) => response.status).sort()).toEqual([200, 200, 200, 200, 200, 503, 503]);
  for (const { stop } of lines) stop.abort();
  // Places are given back.
  for (let tries = 0; ; tries++) {
    const stop = new AbortController();
    const { status } = await fetch(`${server.url}/api/live`, { headers: signedIn, signal: stop.signal });
    stop.abort();
    if (status === 200) break;
    expect(tries).toBeLessThan(50);
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
});

it('an inspector whose list never ends is left, and only ports that were named are asked', async () => {
  const { port } = inspector.address() as { port: number };
  const found = await server.ask(`/api/recordings/targets?address=127.0.0.1:${port}`, { headers: signedIn });
  expect([found.status, found.text]).toEqual([200, '[]']);
  for (const address of ['127.0.0.1:22', 'localhost:5432', '[::1]:6379', `192.0.2.1:${port}`])
    expect(
      (await server.ask(`/api/recordings/targets?address=${address}`, { headers: signedIn })).status
    ).toBe(403);
  await expectAlive();
});
