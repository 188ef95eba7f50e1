/**
 * Records `board.har`: a load of a small page by Chromium, as Playwright writes it. What each of its files is and how long its server keeps it is known.
 * Usage: node pages/record.mjs (from this folder, with the packages of the repository)
 */
import { createServer } from 'node:http';
import { createRequire } from 'node:module';
import path from 'node:path';

const { chromium } = createRequire(path.join(import.meta.dirname, '../../web/package.json'))(
  '@playwright/test'
);

/** Milliseconds the server keeps each answer, its type, and its body. */
const FILES = {
  '/board/17': [
    120,
    'text/html; charset=utf-8',
    '<!doctype html><link rel="stylesheet" href="/board.css"><script src="/board.js"></script><h1>Board</h1><img src="/harbour.svg">'
  ],
  '/board.css': [20, 'text/css', 'h1 { font-size: 3rem }'],
  '/board.js': [60, 'text/javascript', 'fetch("/tides?station=3").then((a) => a.json())'],
  '/tides': [40, 'application/json', '{"high":2.4}'],
  '/harbour.svg': [
    30,
    'image/svg+xml',
    '<svg xmlns="http://www.w3.org/2000/svg" width="400" height="300"><rect width="400" height="300"/></svg>'
  ]
};
const TRACE_PARENT = '00-4bf92f3577b34da6a3ce929d0e0e4736-00f067aa0ba902b7-01';

const server = createServer((request, response) => {
  const [ms, type, body] = FILES[request.url.replace(/\?.*$/, '')] ?? [0, 'text/plain', ''];
  setTimeout(() => {
    response.writeHead(body === '' ? 404 : 200, {
      'content-type': type,
      'server-timing': `work;dur=${ms}, traceparent;desc="${TRACE_PARENT}"`
    });
    response.end(body);
  }, ms);
});
await new Promise((resolve) => server.listen(4797, '127.0.0.1', resolve));
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: ['--headless', '--no-sandbox', '--disable-gpu']
});
const context = await browser.newContext({
  recordHar: { path: path.join(import.meta.dirname, 'board.har'), content: 'omit' }
});
const page = await context.newPage();
await page.goto('http://127.0.0.1:4797/board/17');
await page.waitForLoadState('networkidle');
await context.close();
await browser.close();
server.close();
