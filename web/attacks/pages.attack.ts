import { afterAll, beforeAll, expect, it } from 'vitest';
import { makeFolder, removeFolder, startServer, type Answer, type AttackedServer } from './server';

/** Pages of others send without being asked: what is too much, cut off or forged is turned away with a count, and nothing is stored half. */
const PER_MINUTE = 40;
const MOST_MEMORY = 2.5 * 1024 ** 3;
const ORIGIN = { origin: 'https://quay.example', 'content-type': 'text/plain' };
let data: string;
let server: AttackedServer;
const start = async (): Promise<void> => {
  server = await startServer(data, {
    TROMIX_COLLECT_ORIGINS: ORIGIN.origin,
    TROMIX_COLLECT_KEY: 'the-key-of-the-board',
    TROMIX_COLLECT_PER_MINUTE: String(PER_MINUTE)
  });
};
beforeAll(async () => {
  data = makeFolder();
  await start();
});
afterAll(async () => {
  await server.stop('SIGKILL');
  removeFolder(data);
});

const beacon = (id: number, resources = 3): string => {
  const traceId = id.toString(16).padStart(32, '0');
  const span = (name: string, spanId: number, of: Record<string, string | number>): object => ({
    traceId,
    spanId: spanId.toString(16).padStart(16, '0'),
    ...(spanId > 1 && { parentSpanId: '1'.padStart(16, '0') }),
    name,
    startTimeUnixNano: '1790000000000000000',
    endTimeUnixNano: '1790000001000000000',
    attributes: Object.entries(of).map(([key, value]) => ({
      key,
      value: typeof value === 'number' ? { doubleValue: value } : { stringValue: value }
    }))
  });
  const spans = [
    span('page load', 1, { 'url.full': 'https://quay.example/board', 'tromix.page.sent_ms': 100 }),
    ...Array.from({ length: resources }, (_, i) =>
      span('img', i + 2, { 'url.full': `https://quay.example/${i}.png` })
    )
  ];
  return JSON.stringify({ resourceSpans: [{ scopeSpans: [{ spans }] }] });
};
const send = (
  body: string,
  query = '?key=the-key-of-the-board',
  headers: Record<string, string> = ORIGIN
): Promise<Answer> => server.ask(`/collect${query}`, { method: 'POST', body, headers });
/** How many loads are counted, by the data of the list of pages: values that name each other by their places. */
const loadsCounted = async (): Promise<number> => {
  const { text } = await server.ask('/pages/__data.json?last=1h');
  const { nodes } = JSON.parse(text) as { nodes: ({ data?: unknown[] } | null)[] };
  const values = nodes.at(-1)!.data!;
  const list = values.find(
    (value): value is { all: number } => typeof value === 'object' && value !== null && 'all' in value
  )!;
  return values[(values[list.all] as { loads: number }).loads] as number;
};

it('takes a beacon whole, or not at all', async () => {
  expect((await send(beacon(1))).status).toBe(204);
  expect(await loadsCounted()).toBe(1);
  // Forged: sent before it began. It is counted, and stored nowhere.
  expect((await send(beacon(2).replace('"doubleValue":100', '"doubleValue":-5'))).status).toBe(204);
  expect((await server.ask('/api/senders')).text).toContain('page load does not say when it was sent');
  expect(await loadsCounted()).toBe(1);
  expect((await send(beacon(2).slice(0, -40))).status).toBe(400);
  expect((await send(beacon(2), '?key=another')).status).toBe(401);
  expect((await send(beacon(2), undefined, { ...ORIGIN, origin: 'https://elsewhere.example' })).status).toBe(
    403
  );
  // The connection of what is too large is closed.
  const large = await send(`${'x'.repeat(1024 * 1024)}${beacon(2)}`, undefined, {
    ...ORIGIN,
    connection: 'close'
  });
  expect(large.status).toBe(413);
  expect(await loadsCounted()).toBe(1);
});

it('keeps what was taken when it is killed', async () => {
  expect((await send(beacon(3))).status).toBe(204);
  await server.stop('SIGKILL');
  await start();
  expect(await loadsCounted()).toBe(2);
});

it('takes a page with 5,000 resources, of which not more are kept', async () => {
  // Larger than a browser may send as it is left, smaller than what is taken at once.
  const { status } = await send(beacon(4, 3000));
  expect(status).toBe(204);
  const load = await server.ask(`/pages/loads/${'4'.padStart(32, '0')}`);
  expect(load.status).toBe(200);
});

it('turns away more than are taken in a minute, with a count, and goes on', async () => {
  const answers = await Promise.all(Array.from({ length: 3 * PER_MINUTE }, (_, i) => send(beacon(1000 + i))));
  const refused = answers.filter(({ status }) => status === 429);
  expect(refused.length).toBeGreaterThanOrEqual(2 * PER_MINUTE - 10);
  expect(answers.every(({ status }) => status === 429 || status === 204)).toBe(true);
  expect(refused[0].text).toContain('TROMIX_COLLECT_PER_MINUTE');
  expect(await loadsCounted()).toBe(3 + answers.length - refused.length);
  const { text } = await server.ask('/api/senders');
  expect(text).toContain('More page loads are sent than are taken in a minute');
});

it('reads an archive of 200 MB, and one that is cut off is refused', async () => {
  const entry = (i: number): string =>
    JSON.stringify({
      pageref: 'p',
      startedDateTime: new Date(Date.now() + i).toISOString(),
      time: 12,
      request: { method: 'GET', url: `https://quay.example/${i}.js`, headers: [] },
      response: {
        status: 200,
        headers: [],
        content: { size: 1, mimeType: 'text/javascript', text: 'x'.repeat(20_000) }
      },
      timings: { send: 0, wait: 10, receive: 2 }
    });
  const entries: string[] = [];
  for (let bytes = 0; bytes < 200e6; bytes += entries.at(-1)!.length) entries.push(entry(entries.length));
  const page = JSON.stringify({ id: 'p', startedDateTime: new Date().toISOString(), title: '<b>board</b>' });
  const archive = `{"log":{"version":"1.2","creator":{"name":"x","version":"1"},"pages":[${page}],"entries":[${entries.join(',')}]}}`;
  const taken = await server.upload(archive);
  expect([taken.status, taken.text.slice(0, 200)]).toEqual([201, expect.stringContaining('"pages"')]);
  const cut = await server.upload(archive.slice(0, 5_000_000));
  expect(cut.status).toBe(400);
  expect(cut.text).toContain('not-har');
  expect(server.peakMemory()).toBeLessThan(MOST_MEMORY);
  expect((await server.ask('/pages')).status).toBe(200);
});
