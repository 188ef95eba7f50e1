// `npm run record-case -- ADDRESS`: goes through one case in the demo that runs there, in a browser, as a person would, and keeps it as part of the demo set.
import { readFile, writeFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import path from 'node:path';
import { gunzipSync } from 'node:zlib';
import { ensureChromium, ensurePackages, ROOT } from './prepare.mjs';

ensurePackages();
ensureChromium();
const { chromium } = createRequire(path.join(ROOT, 'web/package.json'))('@playwright/test');
const base = process.argv[2] ?? 'http://127.0.0.1:4380';
const recordings = path.join(ROOT, 'workload/recordings');
const PATIENCE_MS = 60_000;

const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: ['--headless', '--no-sandbox', '--disable-gpu']
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.setDefaultTimeout(PATIENCE_MS);
await page.goto(`${base}/?service=berths`);
const finding = page
  .locator('aside section')
  .filter({ has: page.getByRole('heading', { name: 'One query per row' }) });
await finding.getByRole('button', { name: 'Open a case' }).click();
await page.waitForURL(/\/cases\/[0-9a-f]{16}$/);
const id = page.url().split('/').at(-1);
const pinned = (question) => page.getByText(`Pinned to “${question}”.`).first().waitFor();
const { question } = await caseNow();

// What it looks like while it runs, and what the fix made of it.
await page
  .getByTestId('entry')
  .filter({ hasText: 'One slow request' })
  .getByRole('link', { name: /open the view/i })
  .click();
await page.getByRole('treegrid', { name: 'Timeline' }).waitFor();
await page.waitForTimeout(1000);
await page.keyboard.press('p');
await pinned(question);
await page.goto(`${base}/compare`);
await page.getByRole('link', { name: /^berths POST .*load run/ }).click();
await page
  .getByText(/with 95.% confidence/)
  .first()
  .waitFor();
await page.keyboard.press('p');
await pinned(question);

const send = async (method, where, data) => {
  const answer = await page.request.fetch(`${base}/api/cases/${id}${where}`, { method, data });
  if (!answer.ok()) throw new Error(`${method} ${where}: ${answer.status()} ${await answer.text()}`);
};
await send('POST', '/entries', {
  title: 'What was ruled out',
  text: 'Not the database: a single manifest takes under a millisecond, as before. Not the host: the other endpoints of berths did not change.',
  pin: null
});
await send('POST', '/entries', {
  title: 'Fixed in 7.4',
  text: '`manifestsOneByOne` became one query with `WHERE id IN (…)`. The two load runs send the same **108 requests**, before and after.',
  pin: null
});
const { version } = await caseNow();
await send('PATCH', '', { version, question, state: 'proved', told: 'the berth office and the night shift' });
const { entries, ...whole } = await caseNow();
await browser.close();

async function caseNow() {
  return (await page.request.get(`${base}/api/cases/${id}`)).json();
}

/** In the order a reader wants: what was seen, why, what was done, what it gave. */
const ORDER = [
  'Noticed',
  'One slow request',
  null,
  'A normal one',
  'Cause',
  'What was ruled out',
  'What to do',
  'Fixed in 7.4',
  'To reproduce',
  'To check'
];
const isPinnedView = ({ title }) => !ORDER.includes(title);
const [view, proof] = entries.filter(isPinnedView);
const ordered = [
  ...ORDER.map((title) => (title === null ? view : entries.find((entry) => entry.title === title))),
  proof
];

// How far the server moved the recording in time: one of its load runs tells.
const file = 'load-berths-7.4-4.json';
const [run] = (await (await fetch(`${base}/api/compare/evidence?kind=load`)).json()).filter(
  ({ name }) => name === file
);
const { startedAtUs } = JSON.parse(
  gunzipSync(await readFile(path.join(recordings, `${file}.gz`))).toString()
);
const movedUs = run.startedAtUs - startedAtUs;
const manifestFile = path.join(recordings, 'manifest.json');
const manifest = JSON.parse(await readFile(manifestFile, 'utf8'));
const { endedAtUs } = manifest;
// It took a person four minutes, the last of them when the recording ended.
const STEP_US = 24_000_000;
const beginUs = endedAtUs + movedUs - STEP_US * ordered.length;
const told = {
  ...whole,
  createdAtUs: beginUs,
  version: 1,
  entries: ordered.map((entry, i) => ({ ...entry, atUs: beginUs + i * STEP_US, version: 1 }))
};
const kept = 'case-berths.json';
await writeFile(path.join(recordings, kept), `${JSON.stringify({ movedUs, case: told })}\n`);
await writeFile(manifestFile, `${JSON.stringify({ ...manifest, cases: [kept] }, null, 2)}\n`);
console.log(`${ordered.length} entries, ${JSON.stringify(told).length} characters`);
