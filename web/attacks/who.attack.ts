import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { makeFolder, removeFolder, startServer, tracesOf, type AttackedServer } from './server';

const TOKEN = 'harbour-master-of-quillhaven';
const INGEST = 'gauge-of-the-west-quay';
/** Nothing of what is stored may reach somebody without a token: a name that is nowhere else. */
const KNOWN = 'windlass-service';
const ROUTES = path.resolve(import.meta.dirname, '../src/routes');

let data: string;
let server: AttackedServer;
beforeAll(async () => {
  data = makeFolder();
  mkdirSync(path.join(data, 'sources/.git'), { recursive: true });
  for (const name of [
    'plan.ts',
    '.env',
    'server.pem',
    'id_rsa',
    'credentials.json',
    '.git/config',
    'prod.env'
  ])
    writeFileSync(path.join(data, 'sources', name), 'line of the file\n');
  server = await startServer(data, {
    TROMIX_TOKEN: TOKEN,
    TROMIX_INGEST_TOKEN: INGEST,
    TROMIX_HOSTS: 'tromix.quillhaven.example',
    TROMIX_SOURCES: path.join(data, 'sources')
  });
  await server.send('traces', tracesOf([{ trace: 1, span: 1 }], KNOWN), {
    authorization: `Bearer ${INGEST}`
  });
  await server.until('/api/palette?q=windlass', () => true);
});
afterAll(async () => {
  await server.stop('SIGKILL');
  removeFolder(data);
});

/** Every address the routes of the application answer at, with something put in for its parameters. */
function addresses(): { page: boolean; address: string; methods: string[] }[] {
  const files = readdirSync(ROUTES, { recursive: true, encoding: 'utf8' });
  return files
    .filter((file) => /\+(?:server\.ts|page\.svelte)$/.test(file))
    .map((file) => {
      const text = readFileSync(path.join(ROUTES, file), 'utf8');
      const page = file.endsWith('.svelte');
      const address = `/${path.dirname(file)}`
        .replace(/^\/\.$/, '/')
        .replace('[trace]', '0'.repeat(31) + '1')
        .replace('[span]', '0'.repeat(15) + '1')
        .replace(/\[[\w.]+\]/g, 'a'.repeat(64));
      const methods = page
        ? ['GET', 'POST']
        : [...text.matchAll(/export const (GET|POST|PUT|PATCH|DELETE)\b/g)].map(([, name]) => name);
      return { page, address, methods };
    });
}

describe('without a token', () => {
  it('no route and no data of a page answers, but the place to sign in, which tells nothing', async () => {
    const all = addresses();
    expect(all.length).toBeGreaterThan(30);
    for (const { page, address, methods } of all) {
      for (const method of methods) {
        const { status, text, headers } = await server.ask(address, {
          method,
          headers: { accept: 'text/html' }
        });
        expect(text).not.toContain(KNOWN);
        if (address === '/login') continue;
        if (/^\/collect(?:\.js$|\/|$)/.test(address)) {
          // Pages of others are guarded by themselves: they get the script, and send nothing without the key.
          const told = { GET: 200, OPTIONS: 204, POST: 403 }[method];
          expect([address, method, status]).toEqual([address, method, told]);
          continue;
        }
        const sentAway = status === 303 && headers.get('location')?.startsWith('/login?to=');
        expect([address, method, status === 401 || sentAway]).toEqual([address, method, true]);
      }
      if (!page) continue;
      const ofPage = `${address === '/' ? '' : address}/__data.json`;
      const { status, text } = await server.ask(ofPage);
      expect(text).not.toContain(KNOWN);
      // What a data request may learn: that it has to sign in.
      if (address === '/login') expect(text).not.toMatch(/services|endpoints|hosts|rail|counts/);
      else expect([ofPage, status]).toEqual([ofPage, 401]);
    }
    for (const odd of [
      '/login/',
      '/login//',
      '//login',
      '/login/x',
      '/LOGIN',
      '/_app/../requests',
      '/%2e%2e/requests',
      '/nothing'
    ])
      expect((await server.ask(odd)).text).not.toContain(KNOWN);
  });

  it('nor with wrong ones, however many; then there is a pause', async () => {
    const statuses: number[] = [];
    for (let i = 0; i < 8; i++)
      statuses.push(
        (
          await server.ask('/api/palette?q=a', {
            headers: { authorization: `Bearer of-something-else-${i}` }
          })
        ).status
      );
    expect(statuses.slice(0, 5)).toEqual([401, 401, 401, 401, 401]);
    expect(statuses.at(-1)).toBe(429);
    const form = await server.ask('/login', {
      method: 'POST',
      headers: { 'content-type': 'application/x-www-form-urlencoded', origin: server.url },
      body: `token=${TOKEN}`
    });
    expect(form.text).toContain('Too many wrong tokens');
    await new Promise((resolve) => setTimeout(resolve, 6000));
  });
});

async function signIn(
  host = `127.0.0.1:${server.port}`,
  to = '/'
): Promise<{ cookie: string; location: string; header: string }> {
  const { headers, text } = await server.ask(`/login?to=${encodeURIComponent(to)}`, {
    method: 'POST',
    headers: {
      'content-type': 'application/x-www-form-urlencoded',
      accept: 'text/html',
      origin: `http://${host}`,
      'x-forwarded-host': host
    },
    body: `token=${TOKEN}`
  });
  const header = headers.get('set-cookie') ?? '';
  return { cookie: header.split(';')[0], location: headers.get('location') ?? text, header };
}

describe('sessions', () => {
  it('are random, on plain http a browser can keep them, and nothing of them or of the token is stored', async () => {
    const one = await signIn();
    const other = await signIn();
    expect(one.header).toMatch(/HttpOnly/i);
    expect(one.header).toMatch(/SameSite=Strict/i);
    expect(one.header).not.toMatch(/Secure/i);
    expect(one.cookie).not.toBe(other.cookie);
    expect(one.cookie).not.toContain(TOKEN);
    expect((await server.ask('/api/palette?q=windlass', { headers: { cookie: one.cookie } })).text).toContain(
      KNOWN
    );
    const files = readdirSync(data, { recursive: true, encoding: 'utf8' });
    const value = one.cookie.split('=')[1];
    for (const file of files.filter((name) => name.includes('tromix.sqlite')))
      for (const secret of [value, TOKEN, INGEST])
        expect(readFileSync(path.join(data, file)).includes(secret)).toBe(false);
  });

  it('end one by one and all at once', async () => {
    const [mine, other, third] = [await signIn(), await signIn(), await signIn()];
    const ask = async ({ cookie }: { cookie: string }): Promise<number> =>
      (await server.ask('/api/palette?q=a', { headers: { cookie } })).status;
    const end = (body: object): Promise<unknown> =>
      server.ask('/api/sessions', {
        method: 'DELETE',
        headers: { cookie: mine.cookie, 'content-type': 'application/json' },
        body: JSON.stringify(body)
      });
    const list = (await server.ask('/sessions/__data.json', { headers: { cookie: other.cookie } })).text;
    expect(list).not.toContain(mine.cookie.split('=')[1]);
    await server.ask('/api/sessions', {
      method: 'DELETE',
      headers: { cookie: third.cookie, 'content-type': 'application/json' },
      body: '{"which":"mine"}'
    });
    expect([await ask(mine), await ask(other), await ask(third)]).toEqual([200, 200, 401]);
    await end({ which: 'others' });
    expect([await ask(mine), await ask(other)]).toEqual([200, 401]);
    await end({ which: 'all' });
    expect(await ask(mine)).toBe(401);
  });

  it('outlive a restart, but not another token', async () => {
    const { cookie } = await signIn();
    await server.stop();
    const env = {
      TROMIX_INGEST_TOKEN: INGEST,
      TROMIX_HOSTS: 'tromix.quillhaven.example',
      TROMIX_SOURCES: path.join(data, 'sources')
    };
    server = await startServer(data, { ...env, TROMIX_TOKEN: TOKEN });
    expect((await server.ask('/api/palette?q=a', { headers: { cookie } })).status).toBe(200);
    await server.stop();
    server = await startServer(data, { ...env, TROMIX_TOKEN: 'another-token-of-the-port' });
    expect((await server.ask('/api/palette?q=a', { headers: { cookie } })).status).toBe(401);
    await server.stop();
    server = await startServer(data, { ...env, TROMIX_TOKEN: TOKEN });
  });

  it.each([
    '/\\harbour.example',
    '//harbour.example',
    'https://harbour.example',
    '/.//harbour.example',
    '\\\\harbour.example'
  ])('begin at a place of this server, not at %s', async (to) => {
    expect((await signIn(undefined, to)).location).not.toContain('harbour.example');
  });
});

it('files of source folders that hold secrets by their name are never shown', async () => {
  const ask = (file: string): Promise<number> =>
    server
      .ask(`/api/source/whole?file=${encodeURIComponent(file)}`, {
        headers: { authorization: `Bearer ${TOKEN}` }
      })
      .then(({ status }) => status);
  expect(await ask('plan.ts')).toBe(200);
  for (const file of [
    '.env',
    'server.pem',
    'id_rsa',
    'credentials.json',
    '.git/config',
    'prod.env',
    './.env',
    'x/../.env',
    path.join(data, 'sources/.env')
  ])
    expect([file, await ask(file)]).toEqual([file, 404]);
});

it('names of object internals in an address choose nothing', async () => {
  const headers = { authorization: `Bearer ${TOKEN}` };
  for (const name of ['constructor', '__proto__', 'toString', 'hasOwnProperty'])
    for (const address of [
      `/requests/__data.json?sort=${name}`,
      `/calls/__data.json?rows=${name}`,
      `/__data.json?rows=${name}&rank=${name}&against=${name}`,
      `/endpoint/__data.json?service=${KNOWN}&endpoint=work&slow=${name}`,
      `/requests/__data.json?by=${name}&cols=${name}`
    ])
      expect([address, (await server.ask(address, { headers })).status]).toEqual([address, 200]);
});

it('with an ingest token alone, evidence needs it as spans do', async () => {
  const folder = makeFolder();
  const open = await startServer(folder, { TROMIX_INGEST_TOKEN: INGEST });
  try {
    expect((await open.upload('a;b 1\nc;d 2\n')).status).toBe(401);
    expect((await open.send('traces', tracesOf([{ trace: 1, span: 1 }]))).status).toBe(401);
    const sent = await open.ask('/api/evidence', {
      method: 'POST',
      headers: { authorization: `Bearer ${INGEST}` },
      body: 'a;b 1\nc;d 2\n'
    });
    expect(sent.status).toBe(201);
    expect((await open.ask('/api/palette?q=a')).status).toBe(200);
  } finally {
    await open.stop('SIGKILL');
    removeFolder(folder);
  }
});
