// Records a browser's trace with CPU samples: a page whose main thread and worker compute.
//   node record-trace.mjs     (Debian's Chromium, by Playwright; writes chromium-trace.json.gz)
import { writeFileSync } from 'node:fs';
import { gzipSync } from 'node:zlib';
import { createServer } from 'node:http';
import { createRequire } from 'node:module';

const { chromium } = createRequire(new URL('../../web/package.json', import.meta.url))('@playwright/test');

const SCRIPT = `function sumOfBerths(ms) { const until = performance.now() + ms; let n = 0; while (performance.now() < until) n += Math.sqrt(n + 1); return n; }`;
const PAGE = `<!doctype html><title>Board</title><script src="/board.js"></script><script>
const worker = new Worker('/tides.js');
function plan() { return sumOfBerths(600); }
worker.onmessage = () => { document.title = 'done'; };
setTimeout(() => { plan(); worker.postMessage(300); }, 200);
</script>`;
const TIDES = `importScripts('/board.js'); onmessage = ({ data }) => postMessage(highWater(data)); function highWater(ms) { return sumOfBerths(ms); }`;
const server = createServer((request, response) => {
  const script = { '/board.js': SCRIPT, '/tides.js': TIDES }[request.url];
  response.setHeader('content-type', script ? 'text/javascript' : 'text/html');
  response.end(script ?? PAGE);
});
await new Promise((resolve) => server.listen(4680, '127.0.0.1', resolve));
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: ['--headless', '--no-sandbox', '--disable-gpu']
});
const page = await browser.newPage();
await browser.startTracing(page, { categories: ['disabled-by-default-v8.cpu_profiler', '__metadata', 'v8'] });
await page.goto('http://127.0.0.1:4680/');
await page.waitForFunction(() => document.title === 'done');
const trace = JSON.parse((await browser.stopTracing()).toString());
await browser.close();
server.close();
// What is not read is left out: the trace would be many times as large.
const kept = trace.traceEvents.filter(
  ({ name, ph }) => ph === 'M' || name === 'Profile' || name === 'ProfileChunk'
);
writeFileSync(
  new URL('chromium-trace.json.gz', import.meta.url),
  gzipSync(JSON.stringify({ traceEvents: kept }), { level: 9 })
);
