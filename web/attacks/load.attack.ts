import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, afterEach, beforeAll, beforeEach, expect, it } from 'vitest';
import { makeFolder, removeFolder, startServer, type Answer, type AttackedServer } from './server';

let data: string;
let server: AttackedServer;
let stub: http.Server;
let address: string;
/** Keys of the runs that asked the stub. */
let asked = new Map<string, number>();

beforeAll(async () => {
  stub = http.createServer((request, response) => {
    const key = String(request.headers.traceparent).slice(3, 19);
    asked.set(key, (asked.get(key) ?? 0) + 1);
    setTimeout(() => response.end('{}'), 5);
  });
  await new Promise<void>((resolve) => stub.listen(0, '127.0.0.1', resolve));
  address = `http://127.0.0.1:${(stub.address() as AddressInfo).port}/`;
});
afterAll(() => stub.close());
beforeEach(async () => {
  data = makeFolder();
  asked = new Map();
  server = await startServer(data);
});
afterEach(async () => {
  await server.stop('SIGKILL');
  removeFolder(data);
});

const post = (body: unknown): Promise<Answer> =>
  server.ask('/api/load-runs', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: typeof body === 'string' ? body : JSON.stringify(body)
  });
const LONG = { users: 4, loops: 100_000 };

it('a server that is killed in the middle of a run keeps it, marked as cut off', async () => {
  const started = await post({ plan: { ...LONG, steps: [{ url: address }] } });
  expect(started.status).toBe(201);
  const { key } = JSON.parse(started.text) as { key: string };
  const live = (text: string): number =>
    (JSON.parse(text) as { report: { figures: { samples: number } } }).report.figures.samples;
  await server.until(`/api/load-runs/${key}`, (text) => live(text) > 200);
  await server.stop('SIGKILL');
  server = await startServer(data);
  const kept = await server.ask(`/api/load-runs/${key}`);
  expect(live(kept.text)).toBeGreaterThan(100);
  expect((await server.ask('/load/__data.json')).text).toContain('cut-off');
  // A second one can be started, and nothing of the first is left over.
  expect((await post({ plan: { steps: [{ url: address }] } })).status).toBe(201);
});

it('a run that is started twice at once is started once', async () => {
  const order = { key: '00c0ffee00000001', plan: { ...LONG, loops: 50, steps: [{ url: address }] } };
  const answers = await Promise.all(Array.from({ length: 8 }, () => post(order)));
  expect(answers.filter(({ status }) => status === 201)).toHaveLength(1);
  expect(answers.filter(({ status }) => status === 409)).toHaveLength(7);
  await server.until('/load/__data.json', (text) => text.includes('"done"'));
  expect([...asked]).toEqual([[order.key, 200]]);
  expect((await post(order)).status).toBe(409);
});

const REFUSED: [string, unknown, RegExp][] = [
  ['no JSON', '{', /Expected a JSON object/],
  ['no plan', {}, /steps|plan|object/i],
  [
    'another machine',
    { plan: { steps: [{ url: 'http://169.254.169.254/latest/meta-data' }] } },
    /TROMIX_LOAD_TARGETS/
  ],
  ['a file', { plan: { steps: [{ url: 'file:///etc/passwd' }] } }, /expected an address/],
  [
    'a forged header',
    { plan: { steps: [{ url: 'http://127.0.0.1', headers: [['a', 'b\r\nhost: c']] }] } },
    /on one line/
  ],
  ['users without end', { plan: { users: 1e9, steps: [{ url: 'http://127.0.0.1' }] } }, /at most 2000/],
  [
    'a key that is none',
    { key: '../../x', plan: { steps: [{ url: 'http://127.0.0.1' }] } },
    /16 hexadecimal/
  ],
  [
    'a body of 17 MiB',
    { plan: { steps: [{ url: 'http://127.0.0.1', body: 'x'.repeat(17 << 20) }] } },
    /at most 16 MiB/
  ]
];
it('what cannot be sent is refused in words', async () => {
  for (const [what, order, words] of REFUSED) {
    const { status, text } = await post(order);
    expect(status, what).toBe(400);
    expect((JSON.parse(text) as { message: string }).message, what).toMatch(words);
  }
});

it('a redirect to a place that may not be sent to is not followed', async () => {
  const elsewhere = http.createServer((_, response) =>
    response.writeHead(302, { location: 'http://192.0.2.7/' }).end()
  );
  await new Promise<void>((resolve) => elsewhere.listen(0, '127.0.0.1', resolve));
  const url = `http://127.0.0.1:${(elsewhere.address() as AddressInfo).port}/`;
  const { key } = JSON.parse((await post({ plan: { steps: [{ url }] } })).text) as { key: string };
  const text = await server.until(`/api/load-runs/${key}`, (answer) => answer.includes('redirect-elsewhere'));
  expect(text).toContain('"failed":1');
  elsewhere.close();
});
