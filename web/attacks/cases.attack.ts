import { buffer } from 'node:stream/consumers';
import type { Readable } from 'node:stream';
import { ZipFile } from 'yazl';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { makeFolder, removeFolder, startServer, type Answer, type AttackedServer } from './server';

let data: string;
let server: AttackedServer;
beforeEach(async () => {
  data = makeFolder();
  server = await startServer(data);
});
afterEach(async () => {
  await server.stop('SIGKILL');
  removeFolder(data);
});

const post = (where: string, body: object): Promise<Answer> =>
  server.ask(where, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body)
  });
const openCase = async (): Promise<string> => {
  const { text } = await post('/api/cases', { question: 'Does it hold?', entries: [] });
  return (JSON.parse(text) as { id: string }).id;
};
const pin = (more: object = {}): object => ({
  title: 'A pin',
  text: '',
  pin: { kind: 'request', sentence: 'It was slow.', address: '/requests', ...more }
});
type Entries = { entries: { title: string; pin: { address: string; files: string[] } | null }[] };
const caseNow = async (id: string): Promise<Entries> =>
  JSON.parse((await server.ask(`/api/cases/${id}`)).text) as Entries;

it('a pin that was answered outlives a server that is killed right after, every time', async () => {
  const id = await openCase();
  for (let kept = 1; kept <= 4; kept++) {
    expect((await post(`/api/cases/${id}/entries`, pin())).status).toBe(201);
    await server.stop('SIGKILL');
    server = await startServer(data);
    expect((await caseNow(id)).entries).toHaveLength(kept);
  }
});

it('a pin leads nowhere but here, and what is no pin is refused in words', async () => {
  const id = await openCase();
  for (const address of ['http://evil.example/', '//evil.example/', 'javascript:alert(1)', ''])
    expect((await post(`/api/cases/${id}/entries`, pin({ address }))).status, address).toBe(400);
  for (const wrong of [
    { kind: 'nothing' },
    { files: ['../../x'] },
    { traces: ['x'] },
    { picture: 'x'.repeat(500_000) },
    { more: 1 }
  ])
    expect((await post(`/api/cases/${id}/entries`, pin(wrong))).status).toBe(400);
  // What is gone, or never was, may be pinned: the case stays readable.
  expect((await post(`/api/cases/${id}/entries`, pin({ files: ['ab'.repeat(32)] }))).status).toBe(201);
  expect((await server.ask(`/cases/${id}/__data.json`)).status).toBe(200);
  expect((await server.ask(`/api/cases/${id}/bundle`)).status).toBe(200);
});

it('a picture runs nothing where it is opened by itself', async () => {
  const id = await openCase();
  const picture = '<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>';
  await post(`/api/cases/${id}/entries`, pin({ picture }));
  const { text } = await server.ask(`/api/cases/${id}`);
  const [entry] = (JSON.parse(text) as { entries: { id: string }[] }).entries;
  const answer = await server.ask(`/api/cases/${id}/entries/${entry.id}/picture`);
  expect(answer.headers.get('content-security-policy')).toContain("default-src 'none'");
  expect(answer.headers.get('content-security-policy')).toContain('sandbox');
  expect(answer.headers.get('content-type')).toContain('image/svg+xml');
  const brief = (await server.ask(`/api/cases/${id}/brief?as=html&length=full`)).text;
  expect(brief).not.toContain('<script');
});

it('bundles that are none, or would do harm, are refused in words and leave nothing behind', async () => {
  const id = await openCase();
  await post(`/api/cases/${id}/entries`, pin());
  const bundle = Buffer.from(await (await fetch(`${server.url}/api/cases/${id}/bundle`)).arrayBuffer());
  const send = (body: Uint8Array<ArrayBuffer>): Promise<Answer> =>
    server.ask('/api/bundles', { method: 'POST', body });
  const zipped = async (add: (zip: ZipFile) => void): Promise<Uint8Array<ArrayBuffer>> => {
    const zip = new ZipFile();
    add(zip);
    zip.end();
    return new Uint8Array(await buffer(zip.outputStream as Readable));
  };
  const replaced = (zip: Uint8Array, from: string, to: string): Uint8Array<ArrayBuffer> =>
    new Uint8Array(Buffer.from(Buffer.from(zip).toString('latin1').replaceAll(from, to), 'latin1'));
  const manifest = (more: object = {}): Buffer =>
    Buffer.from(JSON.stringify({ tromixBundle: 1, madeAtUs: 1, case: {}, traces: [], files: [], ...more }));
  const before = (await server.ask('/cases/__data.json')).text.length;
  const hostile: Uint8Array<ArrayBuffer>[] = [
    new Uint8Array(0),
    new TextEncoder().encode('no zip'),
    new Uint8Array(bundle.subarray(0, bundle.length - 60)),
    new Uint8Array(bundle.subarray(40)),
    await zipped((zip) => zip.addBuffer(Buffer.from('x'), 'manifest.json')),
    await zipped((zip) => zip.addBuffer(manifest({ tromixBundle: 99 }), 'manifest.json')),
    await zipped((zip) => zip.addBuffer(manifest(), 'manifest.json')),
    // The library that writes zips refuses such paths: they are put into its bytes.
    replaced(
      await zipped((zip) => {
        zip.addBuffer(manifest(), 'manifest.json');
        zip.addBuffer(Buffer.from('x'), 'evidence/xx/xx/xx/etc/cron.d/x');
      }),
      '/xx/xx/xx/',
      '/../../../'
    ),
    await zipped((zip) => {
      zip.addBuffer(manifest(), 'manifest.json');
      // A link, as Unix writes its mode.
      zip.addBuffer(Buffer.from('/etc/passwd'), `evidence/${'ab'.repeat(32)}`, { mode: 0o120777 });
    }),
    await zipped((zip) => {
      zip.addBuffer(manifest(), 'manifest.json');
      zip.addBuffer(Buffer.alloc(40_000_000), `evidence/${'cd'.repeat(32)}`);
    }),
    await zipped((zip) => {
      for (let i = 0; i < 3100; i++) zip.addBuffer(Buffer.from('x'), `traces/${i}.otlp.json`);
    })
  ];
  for (const [i, body] of hostile.entries()) {
    const answer = await send(body);
    expect(answer.status, `${i}: ${answer.text}`).toBe(400);
    expect((JSON.parse(answer.text) as { message: string }).message, String(i)).toMatch(/\w+/);
  }
  expect((await server.ask('/cases/__data.json')).text).toHaveLength(before);
  // The good one is still taken, and adds nothing twice.
  const again = await send(new Uint8Array(bundle));
  expect(again.status).toBe(201);
  expect((await caseNow(id)).entries).toHaveLength(1);
  expect(server.stderr).not.toContain('Error');
});
