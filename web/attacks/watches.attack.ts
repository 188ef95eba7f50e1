import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { makeFolder, removeFolder, startServer, type Answer, type AttackedServer } from './server';

/** What is asked to be watched, drawn or told comes from outside: none of it may end the server, hold it up, or send anywhere but where it may. */
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

const send = (method: string, place: string, body: unknown): Promise<Answer> =>
  server.ask(place, {
    method,
    headers: { 'content-type': 'application/json' },
    body: typeof body === 'string' ? body : JSON.stringify(body)
  });
const condition = (change: object = {}): object => ({
  watched: { of: 'requests', figure: 'rate' },
  limit: { by: 'number', side: 'below', on: 1, off: 2 },
  over: 1,
  for: 1,
  ...change
});

it('what is no watch is refused in words, whatever it is', async () => {
  const deep = '['.repeat(100_000);
  for (const body of [
    '',
    'null',
    '[]',
    deep,
    { condition: null },
    { condition: condition({ over: 1e9 }) },
    { condition: condition({ for: -1 }) },
    { condition: condition({ limit: { by: 'number', side: 'below', on: '1; DROP TABLE watches', off: 2 } }) },
    { condition: condition({ watched: { of: '__proto__' } }) },
    { condition: condition({ watched: { of: 'requests', figure: 'constructor' } }) },
    {
      condition: condition({ watched: { of: 'requests', figure: 'p95', attributes: Array(9).fill('a=b') } })
    },
    { condition: condition(), actions: { record: Array(99).fill({ kind: 'heap', seconds: 600 }) } },
    { condition: condition(), name: 'x'.repeat(10_000) }
  ]) {
    const { status, text } = await send('POST', '/api/watches', body);
    expect([status, text.slice(0, 200)]).toEqual([400, expect.stringContaining('message')]);
  }
  expect(JSON.parse((await server.ask('/api/watches')).text)).toEqual([]);
});

it('names in a condition are values, also those that are statements', async () => {
  const names = [
    "'; DROP TABLE rollups; --",
    '%',
    '\u0000',
    '../../etc/passwd',
    '<img src=x onerror=alert(1)>'
  ];
  for (const name of names)
    for (const watched of [
      { of: 'requests', figure: 'p95', place: { service: name, endpoint: name, host: `!${name}` } },
      { of: 'requests', figure: 'p95', attributes: [`${name || 'x'}=${name}`] },
      { of: 'calls', figure: 'p95', kind: name, fingerprint: name },
      { of: 'calls', figure: 'p95', attributes: [`a${name}=${name}`] },
      { of: 'finding', rule: name || 'x' },
      { of: 'failures', figure: 'rate', failure: name },
      { of: 'counter', name: name || 'x' },
      { of: 'vital', vital: 'lcp', page: name }
    ]) {
      const limit = { by: 'number', side: 'above', on: 1, off: 1 };
      const { status, text } = await send('POST', '/api/watches/past', {
        condition: condition({ watched, limit })
      });
      // A sign that starts an attribute's condition may be none: then that is said.
      expect([200, 400], text).toContain(status);
    }
  const { status } = await server.ask('/__data.json');
  expect(status).toBe(200);
});

it('windows and boards beyond every measure are refused or bounded', async () => {
  const figures = [{ of: 'requests', figure: 'p95' }];
  for (const window of [
    { fromMs: 0, toMs: 8.64e15 },
    { fromMs: 5, toMs: 5 },
    { fromMs: -1, toMs: 1 },
    { fromMs: 1e300, toMs: 2e300 }
  ])
    expect((await send('POST', '/api/boards/series', { figures, ...window })).status).toBe(400);
  const { status, text } = await send('POST', '/api/boards/series', {
    figures: Array(40).fill(figures[0]),
    fromMs: Date.now() - 1000 * 86_400_000,
    toMs: Date.now()
  });
  expect(status).toBe(200);
  expect(text.length).toBeLessThan(1_000_000);
  expect(
    (await send('POST', '/api/boards/series', { figures: Array(41).fill(figures[0]), fromMs: 1, toMs: 2 }))
      .status
  ).toBe(400);
  const chart = { id: 'a', figures };
  expect((await send('POST', '/api/boards', { name: 'x', charts: Array(41).fill(chart) })).status).toBe(400);
  expect((await send('POST', '/api/boards', { name: '<b>x</b>', charts: [chart] })).status).toBe(201);
});

it('two changes of one board do not overwrite each other', async () => {
  const { id } = JSON.parse((await send('POST', '/api/boards', { name: 'both', charts: [] })).text) as {
    id: string;
  };
  const change = (name: string): Promise<Answer> =>
    send('PUT', `/api/boards/${id}`, { version: 1, name, charts: [] });
  expect((await change('first')).status).toBe(200);
  expect((await change('second')).status).toBe(409);
  expect(JSON.parse((await server.ask(`/api/boards/${id}?as=stored`)).text)).toMatchObject({
    name: 'first',
    version: 2
  });
});

it('nothing is sent to where it may not, by any spelling', async () => {
  for (const url of [
    'http://169.254.169.254/',
    'http://10.0.0.1/',
    'http://2130706433/x',
    'http://[::ffff:10.0.0.1]/',
    'http://localhost.example/',
    'http://127.0.0.1.example/',
    'http://example.com@10.0.0.1/',
    'file:///etc/passwd',
    'gopher://127.0.0.1/',
    'javascript:alert(1)',
    ''
  ]) {
    const { status, text } = await send('POST', '/api/hooks', { name: 'x', url });
    // A number that is the loopback is the loopback: URLs are read as browsers read them.
    if (url.includes('2130706433')) expect(status).toBe(201);
    else expect([status, text]).toEqual([403, expect.stringContaining('message')]);
  }
  for (const { id } of JSON.parse((await server.ask('/api/hooks')).text) as { id: string }[])
    await send('DELETE', `/api/hooks/${id}`, {});
});

/** A receiver that takes what is sent and never answers. */
async function hanging(): Promise<{ url: string; asked: () => number; server: Server }> {
  let asked = 0;
  const one = createServer((request) => {
    asked++;
    request.resume();
  });
  await new Promise<void>((resolve) => one.listen(0, '127.0.0.1', resolve));
  return { url: `http://127.0.0.1:${(one.address() as AddressInfo).port}/`, asked: () => asked, server: one };
}

it('a webhook that hangs holds up neither another nor the server, and a killed server sends what it had not sent', async () => {
  const hangs = await hanging();
  const taken: string[] = [];
  const takes = createServer((request, response) => {
    taken.push(String(request.headers['webhook-id']));
    request.resume();
    response.end();
  });
  await new Promise<void>((resolve) => takes.listen(0, '127.0.0.1', resolve));
  const add = async (name: string, url: string): Promise<string> =>
    (JSON.parse((await send('POST', '/api/hooks', { name, url })).text) as { id: string }).id;
  const slow = await add('slow', hangs.url);
  const quick = await add('quick', `http://127.0.0.1:${(takes.address() as AddressInfo).port}/`);
  for (let i = 0; i < 5; i++) await send('POST', `/api/hooks/${slow}`, {});
  const began = Date.now();
  await send('POST', `/api/hooks/${quick}`, {});
  while (taken.length === 0 && Date.now() - began < 20_000)
    await new Promise((resolve) => setTimeout(resolve, 50));
  expect(taken).toHaveLength(1);
  expect(Date.now() - began).toBeLessThan(9000);
  expect(hangs.asked()).toBeGreaterThan(0);

  // Killed while one hangs: what waited is sent after the next start, by the same name.
  await send('POST', `/api/hooks/${slow}`, {});
  await server.stop('SIGKILL');
  hangs.server.closeAllConnections();
  hangs.server.close();
  server = await startServer(data);
  const listed = await server.until('/watches/webhooks/__data.json', (text) =>
    text.includes('cannot be reached')
  );
  expect(listed).toContain('waiting');
  takes.close();
});
