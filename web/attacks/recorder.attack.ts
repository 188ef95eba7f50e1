import { spawn, type ChildProcess } from 'node:child_process';
import { createServer, type Server } from 'node:http';
import { WebSocketServer } from 'ws';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { makeFolder, removeFolder, startServer, type AttackedServer } from './server';

/** An inspector that answers with something else than it should ends its own recording, and no other. */
let data: string;
let server: AttackedServer;
let honest: ChildProcess;
let honestPort: number;
let odd: Server;
let oddPort: number;
/** Runs beside all the others. */
let honestRecording: string | undefined;
/** What the odd process sends when a dump is asked of it. */
let evil: (send: (text: string) => void, id: number) => void = () => undefined;

beforeAll(async () => {
  data = makeFolder();
  honest = spawn(
    process.execPath,
    ['--inspect=127.0.0.1:0', '-e', 'setInterval(() => { for (let i = 0; i < 1e5; i++) Math.sqrt(i); }, 5)'],
    { stdio: ['ignore', 'ignore', 'pipe'] }
  );
  honestPort = await new Promise((resolve) =>
    honest.stderr!.on('data', (part: Buffer) => {
      const found = /ws:\/\/127\.0\.0\.1:(\d+)\//.exec(part.toString());
      if (found) resolve(Number(found[1]));
    })
  );
  odd = createServer((_, response) => {
    response.end(
      JSON.stringify([
        { title: 'odd', url: '', webSocketDebuggerUrl: `ws://127.0.0.1:${oddPort}/x` },
        null,
        7
      ])
    );
  }).listen(0, '127.0.0.1');
  await new Promise((resolve) => odd.once('listening', resolve));
  oddPort = (odd.address() as { port: number }).port;
  new WebSocketServer({ server: odd }).on('connection', (socket) => {
    const send = (text: string): void => socket.send(text, () => undefined);
    socket.on('message', (message: Buffer) => {
      const { id, method, params } = JSON.parse(message.toString()) as {
        id: number;
        method: string;
        params?: { expression?: string };
      };
      if (method === 'Runtime.evaluate' && params?.expression?.includes('process.pid'))
        send(
          JSON.stringify({
            id,
            result: {
              result: {
                value: JSON.stringify({
                  pid: 4711,
                  host: 'quay\ud800',
                  service: 'odd',
                  release: '',
                  development: false
                })
              }
            }
          })
        );
      else if (method === 'Runtime.evaluate')
        send(JSON.stringify({ id, result: { result: { value: '{"wall":1e400,"monotonic":"x"}' } } }));
      else if (method.startsWith('HeapProfiler.take') || method === 'Profiler.stop') evil(send, id);
      else send(JSON.stringify({ id, result: {} }));
    });
  });
  server = await startServer(data, {
    TROMIX_INSPECT: `127.0.0.1:${honestPort}, 127.0.0.1:${oddPort}`,
    TROMIX_MAX_HEAP_BYTES: '3000000'
  });
});
afterAll(async () => {
  honest.kill('SIGKILL');
  odd.closeAllConnections();
  odd.close();
  await server.stop('SIGKILL');
  removeFolder(data);
});

const start = async (port: number, kind: 'cpu' | 'heap', seconds: number): Promise<string> => {
  const { status, text } = await server.ask('/api/recordings', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ address: `127.0.0.1:${port}`, kind, seconds, interval: 1000 })
  });
  expect([status, text]).toEqual([201, text]);
  return (JSON.parse(text) as { id: string }).id;
};

it.each<[string, 'cpu' | 'heap', typeof evil, RegExp]>([
  [
    'a part of a dump that is no JSON',
    'heap',
    (send) => send('{"method":"HeapProfiler.addHeapSnapshotChunk","params":{"chunk":"abc'),
    /no answer of an inspector/
  ],
  [
    'a part of a dump that is no text',
    'heap',
    (send) => send('{"method":"HeapProfiler.addHeapSnapshotChunk","params":{"chunk":{"a":1}}}'),
    /a part of the dump is no text/
  ],
  [
    'parts of a dump without end',
    'heap',
    (send) => {
      for (let i = 0; i < 50; i++)
        send(
          JSON.stringify({
            method: 'HeapProfiler.addHeapSnapshotChunk',
            params: { chunk: 'x'.repeat(200_000) }
          })
        );
    },
    /TROMIX_MAX_HEAP_BYTES/
  ],
  ['an error without words', 'cpu', (send, id) => send(`{"id":${id},"error":null}`), /it gave no reason/],
  [
    'a profile that is none',
    'cpu',
    (send, id) => send(`{"id":${id},"result":{"profile":"nothing"}}`),
    /Expected/
  ],
  [
    'an answer larger than any profile',
    'cpu',
    (send, id) => send(`{"id":${id},"result":{"profile":"${'x'.repeat(140_000_000)}"}}`),
    /broke|no answer/
  ]
])(
  '%s',
  async (_, kind, what, words) => {
    evil = what;
    honestRecording ??= await start(honestPort, 'cpu', 8);
    const bad = await start(oddPort, kind, 1);
    const list = await server.until('/recorder/__data.json', (text) => words.test(text), 120_000);
    expect(list).toContain(bad);
    expect(list).not.toContain('thread recorder ended');
    expect(server.peakMemory()).toBeLessThan(1.2 * 1024 ** 3);
  },
  60_000
);

it('and the honest one that ran meanwhile is saved', async () => {
  const list = await server.until(
    '/recorder/__data.json',
    (text) => !text.includes('"recording"') && !text.includes('"saving"'),
    120_000
  );
  expect(list).toContain(honestRecording);
  expect(list).toContain('"saved"');
});
