/**
 * `/collect.js`: its size as it is sent, and the time it takes of a page's main thread, as the browser counts script (`Performance.getMetrics`,
 * `ScriptDuration` by thread time): until the load event, and with what is done afterwards, when the page is idle. The same page without it takes none.
 * Run: npx tsx bench/collect.bench.ts
 */
import { createServer } from 'node:http';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import { chromium, type Page } from '@playwright/test';
import { buildSync } from 'esbuild';

const ROUNDS = Number(process.env.ROUNDS ?? 21);
const [{ text: script }] = buildSync({
  entryPoints: [path.resolve(import.meta.dirname, '../collect/src/main.ts')],
  bundle: true,
  minify: true,
  write: false,
  format: 'iife',
  target: 'es2020'
}).outputFiles;
console.log(`collect.js: ${(gzipSync(script, { level: 9 }).length / 1000).toFixed(1)} kB gzip`);

/** A page as long as that of the demo, with the script or without. */
const html = (tag: string): string =>
  `<!doctype html><title>x</title>${tag}<h1>The board</h1>${'<p>A berth of the harbour</p>'.repeat(400)}`;
const TAGS: Record<string, string> = {
  '/without': '',
  '/with': '<script src="/collect.js"></script>',
  '/profiled': '<script src="/collect.js" data-profile-share="1"></script>'
};
const server = createServer((request, response) => {
  const { pathname } = new URL(request.url ?? '/', 'http://localhost');
  if (pathname === '/collect.js') {
    response.setHeader('content-type', 'text/javascript').end(script);
  } else if (pathname.startsWith('/collect')) response.writeHead(204).end();
  else
    response
      .setHeader('content-type', 'text/html')
      .setHeader('document-policy', 'js-profiling')
      .end(html(TAGS[pathname] ?? ''));
});
await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
const { port } = server.address() as { port: number };

const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: ['--headless', '--no-sandbox', '--disable-gpu']
});
const context = await browser.newContext();

async function scriptMs(page: Page, path: string): Promise<{ atLoad: number; inAll: number }> {
  const session = await context.newCDPSession(page);
  await session.send('Performance.enable', { timeDomain: 'threadTicks' });
  const read = async (): Promise<number> => {
    const { metrics } = await session.send('Performance.getMetrics');
    return metrics.find(({ name }) => name === 'ScriptDuration')!.value * 1000;
  };
  await page.goto(`http://127.0.0.1:${port}${path}`, { waitUntil: 'load' });
  const atLoad = await read();
  await page.waitForTimeout(3000);
  return { atLoad, inAll: await read() };
}

const median = (list: number[]): number => list.toSorted((a, b) => a - b)[list.length >> 1];
const spread = (list: number[]): string =>
  `${median(list).toFixed(1)} ms (${Math.min(...list).toFixed(1)} to ${Math.max(...list).toFixed(1)})`;
const found: Record<string, { atLoad: number; inAll: number }[]> = {};
for (let i = 0; i < ROUNDS; i++)
  for (const path of Object.keys(TAGS)) {
    const page = await context.newPage();
    (found[path] ??= []).push(await scriptMs(page, path));
    await page.close();
  }
for (const [path, times] of Object.entries(found))
  console.log(
    `${path.slice(1)}: until the load event ${spread(times.map(({ atLoad }) => atLoad))}, with what is idle ${spread(times.map(({ inAll }) => inAll))}`
  );
await browser.close();
server.close();
