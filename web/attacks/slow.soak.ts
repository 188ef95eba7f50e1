import { connect } from 'node:net';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { makeFolder, removeFolder, startServer, tracesOf, type AttackedServer } from './server';

let data: string;
let server: AttackedServer;
beforeAll(async () => {
  data = makeFolder();
  server = await startServer(data);
});
afterAll(async () => {
  await server.stop('SIGKILL');
  removeFolder(data);
});

/** @returns when the server has closed the connection. */
const closed = (path: string, headers: string, body: string): Promise<void> =>
  new Promise((resolve) => {
    const socket = connect(server.port, '127.0.0.1');
    socket.on('close', () => resolve());
    socket.on('error', () => resolve());
    socket.resume();
    socket.write(`POST ${path} HTTP/1.1\r\nhost: 127.0.0.1\r\n${headers}\r\n\r\n${body}`);
  });

it('bodies that stop are closed after a while, wherever they are sent to, and others are served meanwhile', async () => {
  const begun = Date.now();
  const slow = [
    closed('/v1/traces', 'content-type: application/json\r\ncontent-length: 1000', '{'),
    closed('/v1/logs', 'content-type: application/x-protobuf\r\ncontent-length: 1000', ''),
    closed('/api/evidence', 'content-length: 1000000', 'a;b 1\n'),
    closed('/api/keep-rules', 'content-type: application/json\r\ncontent-length: 1000', '['),
    closed('/login', 'content-type: application/x-www-form-urlencoded\r\ncontent-length: 1000', 'token=')
  ];
  expect((await server.send('traces', tracesOf([{ trace: 1, span: 1 }]))).status).toBe(200);
  await Promise.all(slow);
  expect(Date.now() - begun).toBeLessThan(40_000);
}, 90_000);

it('connections that say nothing, half a head, or half of what begins HTTP/2 are closed after a while', async () => {
  const begun = Date.now();
  const ends = ['', 'GET / HTTP/1.1\r\nhost: 127.0.0.1\r\n', 'PRI * HT'].map(
    (text) =>
      new Promise<void>((resolve) => {
        const socket = connect(server.port, '127.0.0.1');
        socket.on('close', () => resolve());
        socket.on('error', () => resolve());
        socket.resume();
        socket.write(text);
      })
  );
  expect((await server.send('traces', tracesOf([{ trace: 2, span: 1 }]))).status).toBe(200);
  await Promise.all(ends);
  expect(Date.now() - begun).toBeLessThan(70_000);
}, 90_000);
