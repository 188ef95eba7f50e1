/**
 * Cases: how long a pin takes until it is saved, how long a case with 200 pins takes to open in the browser and to become a brief, how much memory a bundle of 200 MB takes
 * on its way out and in, and how long an assistant waits for an answer about the demo.
 */
import { createReadStream, rmSync, statSync, writeFileSync, readFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { performance } from 'node:perf_hooks';
import { createRequire } from 'node:module';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { createWriteStream } from 'node:fs';
import { quantiles } from '../core/src/stats/percentile';
import { makeFolder, startServer, type AttackedServer } from '../web/attacks/server';
import { snapshotDump } from './fill-heap';

const ROOT = path.resolve(import.meta.dirname, '..');
const PINS = 200;
const ROUNDS = 5;
const MB = 1e6;
/** Windows that a process keeps for its snapshot to be longer than 200 MB. */
const WINDOWS = 400_000;

/** Median, p95 and greatest, milliseconds. */
const said = (ms: readonly number[]): string => {
  const [median, p95] = quantiles(ms, [0.5, 0.95]);
  return `median ${median.toFixed(0)} ms, p95 ${p95.toFixed(0)} ms, at most ${Math.max(...ms).toFixed(0)} ms`;
};
async function timed<T>(work: () => Promise<T>): Promise<{ ms: number; value: T }> {
  const begun = performance.now();
  const value = await work();
  return { ms: performance.now() - begun, value };
}

/** A picture as long as those of the views. */
const PICTURE = `<svg xmlns="http://www.w3.org/2000/svg" width="700" height="160" viewBox="0 0 700 160">${Array.from(
  { length: 260 },
  (_, i) => `<rect x="${i * 2.6}" y="${(i * 37) % 120}" width="2" height="20" fill="#2a7588"/>`
).join('')}</svg>`;
const pin = (i: number, files: string[] = []): object => ({
  title: `Pin ${i}`,
  text: i % 4 === 0 ? 'What **this** means.' : '',
  pin: {
    kind: 'request',
    role: i === 0 ? 'cause' : '',
    sentence: `Request ${i} took 1.2 s, of which 900 ms database.`,
    figures: Array.from({ length: 6 }, (_, of) => ({ name: `figure ${of}`, value: `${of} ms` })),
    address: `/requests?pin=${i}`,
    picture: PICTURE,
    files
  }
});
const post = async (server: AttackedServer, where: string, body: object): Promise<string> => {
  const { status, text } = await server.ask(where, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body)
  });
  if (status >= 300) throw new Error(`${where}: ${status} ${text}`);
  return text;
};

/** The memory that a process takes at most meanwhile, beyond what it takes before (`clear_refs`, proc_pid_clear_refs(5)). */
async function extraMemory(server: AttackedServer, work: () => Promise<unknown>): Promise<number> {
  const resident = (): number =>
    Number(/VmRSS:\s+(\d+) kB/.exec(readFileSync(`/proc/${server.process.pid}/status`, 'utf8'))![1]) * 1024;
  writeFileSync(`/proc/${server.process.pid}/clear_refs`, '5');
  const before = resident();
  await work();
  return server.peakMemory() - before;
}

const folders: string[] = [];
const fresh = (): string => {
  const folder = makeFolder();
  folders.push(folder);
  return folder;
};

const server = await startServer(fresh());
const { id } = JSON.parse(
  await post(server, '/api/cases', { question: 'What does a case cost?', entries: [] })
) as { id: string };
const saving: number[] = [];
for (let i = 0; i < PINS; i++)
  saving.push((await timed(() => post(server, `/api/cases/${id}/entries`, pin(i)))).ms);
console.log(
  `a pin of ${(PICTURE.length / 1000).toFixed(0)} kB is saved in ${said(saving)}; must be within 100 ms`
);

const { chromium } = createRequire(path.join(ROOT, 'web/package.json'))(
  '@playwright/test'
) as typeof import('@playwright/test');
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: ['--headless', '--no-sandbox', '--disable-gpu']
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
const opening: number[] = [];
const whole: number[] = [];
for (let round = 0; round <= ROUNDS; round++) {
  await page.goto(`${server.url}/cases`);
  const link = page.getByRole('table').getByRole('link').first();
  await link.waitFor();
  // From the click until the window is painted, and until every entry is in the page and painted.
  const [first, all] = await page.evaluate(async (pins) => {
    const begun = performance.now();
    document.querySelector<HTMLElement>('[role="table"] a')!.click();
    const painted: number[] = [];
    for (const entries of [1, pins]) {
      while (document.querySelectorAll('[data-testid="entry"]').length < entries)
        await new Promise((resolve) => requestAnimationFrame(resolve));
      await new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve)));
      painted.push(performance.now() - begun);
    }
    return painted;
  }, PINS);
  // The first round loads the page's code.
  if (round > 0) {
    opening.push(first);
    whole.push(all);
  }
}
await browser.close();
console.log(
  `a case with ${PINS} pins opens in ${said(opening)}; must be within 300 ms; all its entries are there in ${said(whole)}`
);

const briefs: number[] = [];
for (let round = 0; round < ROUNDS; round++)
  for (const as of ['html', 'md'])
    briefs.push((await timed(() => server.ask(`/api/cases/${id}/brief?as=${as}&length=full`))).ms);
console.log(`its brief is made in ${said(briefs)}; must be within 1,000 ms`);

const dump = snapshotDump(path.join(os.tmpdir(), `tromix-case-bench-${process.pid}.heapsnapshot`), WINDOWS);
const { text } = await server.ask('/api/evidence?name=big', {
  method: 'POST',
  body: Readable.toWeb(createReadStream(dump)) as ReadableStream,
  duplex: 'half'
} as RequestInit);
const sent = JSON.parse(text) as { id: string };
await post(server, `/api/cases/${id}/entries`, pin(PINS, [sent.id]));
const zip = `${dump}.zip`;
const out = await extraMemory(server, async () => {
  const response = await fetch(`${server.url}/api/cases/${id}/bundle`);
  await pipeline(Readable.fromWeb(response.body as never), createWriteStream(zip));
});
const other = await startServer(fresh());
const into = await extraMemory(other, async () => {
  const response = await fetch(`${other.url}/api/bundles`, {
    method: 'POST',
    body: Readable.toWeb(createReadStream(zip)) as ReadableStream,
    duplex: 'half'
  } as RequestInit);
  if (response.status !== 201) throw new Error(await response.text());
});
console.log(
  `a bundle of ${(statSync(dump).size / MB).toFixed(0)} MB (${(statSync(zip).size / MB).toFixed(0)} MB packed) takes ${(out / MB).toFixed(0)} MB of memory on its way out, ${(into / MB).toFixed(0)} MB on its way in; must be under 150 MB`
);
await server.stop();
await other.stop();
for (const file of [dump, zip]) rmSync(file, { force: true });

const demo = await startServer(fresh(), {
  TROMIX_MCP: '1',
  TROMIX_DEMO: path.join(ROOT, 'workload/recordings'),
  TROMIX_SOURCES: path.join(ROOT, 'workload/src')
});
let session = '';
async function rpc(method: string, params: object): Promise<{ result: { content?: { text: string }[] } }> {
  const response = await fetch(`${demo.url}/mcp`, {
    method: 'POST',
    headers: {
      'content-type': 'application/json',
      accept: 'application/json, text/event-stream',
      ...(session && { 'mcp-session-id': session })
    },
    body: JSON.stringify({ jsonrpc: '2.0', id: 1, method, params })
  });
  session ||= response.headers.get('mcp-session-id') ?? '';
  return (await response.json()) as { result: { content?: { text: string }[] } };
}
await rpc('initialize', {
  protocolVersion: '2025-06-18',
  capabilities: {},
  clientInfo: { name: 'bench', version: '1' }
});
const evidence = async (kind: string): Promise<string> => {
  const { result } = await rpc('tools/call', { name: 'list_evidence', arguments: { kind } });
  return /[0-9a-f]{64}/.exec(result.content![0].text)![0];
};
const findings = await rpc('tools/call', { name: 'list_findings', arguments: {} });
const request = /example request: (\w{32}\/\w{16})/.exec(findings.result.content![0].text)![1];
const QUESTIONS: [string, object][] = [
  ['list_endpoints', {}],
  ['list_findings', { service: 'berths' }],
  ['list_requests', { service: 'berths' }],
  ['read_request', { request }],
  ['compare', { load_run: 4 }],
  ['read_profile', { id: await evidence('profile') }],
  ['read_threads', { id: await evidence('threads') }],
  ['read_source', { file: 'berths/plan.ts', line: 28 }],
  ['read_case', {}]
];
for (const [name, args] of QUESTIONS) {
  const took: number[] = [];
  let longest = 0;
  for (let round = 0; round < ROUNDS; round++) {
    const { ms, value } = await timed(() => rpc('tools/call', { name, arguments: args }));
    took.push(ms);
    longest = Math.max(longest, value.result.content![0].text.length);
  }
  console.log(
    `${name}: ${said(took)}, ${(longest / 4).toFixed(0)} tokens; must be within 300 ms and 4,000 tokens`
  );
}
await demo.stop();
for (const folder of folders) rmSync(folder, { recursive: true, force: true });
process.exit(0);
