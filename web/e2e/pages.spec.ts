import { createServer, type Server } from 'node:http';
import { createReadStream } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { expect, test, type Page } from '@playwright/test';
import { EMPTY, LOCKED } from './servers';

const reading = (page: Page) => page.getByRole('complementary', { name: 'Reading' });
const table = (page: Page, name: string | RegExp) => page.getByRole('table', { name, exact: true });
const timeline = (page: Page) => page.getByRole('treegrid', { name: 'What the page loaded' });

test('Pages, the worst page, one load, what is before the paint, the long task, its line', async ({
  page
}) => {
  await page.goto('/');
  await page.getByRole('link', { name: 'Pages', exact: true }).click();
  await expect(reading(page)).toContainText(/loads score [\d.]+ of 100 on average/);
  const rows = table(page, 'Pages').getByRole('row');
  await expect(rows).toHaveCount(4);
  await page.getByRole('link', { name: /^\/office\/board/ }).click();

  await expect(page.getByRole('heading', { level: 1 })).toHaveText('/office/board');
  await expect(reading(page)).toContainText(/Before the largest paint most time goes into/);
  await expect(reading(page)).toContainText('Script before the largest paint');
  await expect(page.getByRole('img', { name: /^largest paint of \d+ loads: \d+\s?% good/ })).toBeVisible();
  await table(page, 'Slowest loads').getByRole('link').first().click();

  await expect(page.getByRole('heading', { level: 1 })).toContainText(/[\d.]+ s\s+to the largest paint/);
  await expect(
    timeline(page)
      .getByRole('row', { name: /charts\.js|scripts before the paint/ })
      .first()
  ).toBeVisible();
  await expect(reading(page)).toContainText(/came at [\d.]+ s; 2\.5 s is called good/);
  // The page's own profile says which function the long task was.
  await expect(page.getByTestId('task-samples').first()).toContainText(/drawTides|heightAt/);
  await reading(page)
    .getByRole('link', { name: /^Open those [\d.]+ m?s in Profiles/ })
    .first()
    .click();
  await expect(page).toHaveURL(/\/profiles\/[0-9a-f]{64}\?.*cutFrom=\d+/);
  await expect(page.getByText('heightAt').first()).toBeVisible();
});

test('from a slow first byte to the request behind it and its query for every row, and up again', async ({
  page
}) => {
  await page.goto('/pages');
  await page.getByRole('link', { name: /^\/office\/berths\/:id/ }).click();
  await expect(reading(page)).toContainText('Slow first byte');
  await table(page, 'Slowest loads').getByRole('link').nth(1).click();
  await expect(reading(page)).toContainText(/of gateway/);
  const load = page.url();
  await reading(page).getByRole('link', { name: 'Open the request' }).first().click();
  await expect(page).toHaveURL(/\/requests\/[0-9a-f]{32}\/[0-9a-f]{16}/);
  await expect(reading(page)).toContainText(/One query per row|per row/i);
  await page.getByTestId('asked-by').getByRole('link', { name: '/office/berths/:id' }).click();
  await expect(page).toHaveURL(new RegExp(new URL(load).pathname));
});

test('one visit: its steps, what came of them, the error, and the failure it is', async ({ page }) => {
  await page.goto('/failures');
  await page.getByRole('link', { name: /^TypeError: Cannot read properties of undefined/ }).click();
  await expect(reading(page)).toContainText('What happened on the page before');
  await expect(page.getByRole('table', { name: 'What happened before' })).toContainText(
    'clicked Print the plan'
  );
  await page.getByRole('link', { name: 'Its visit' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('of one visit');
  const visit = page.getByRole('grid', { name: 'The visit' });
  await visit.getByRole('row', { name: /^step: clicked Show the tides/ }).click();
  await expect(reading(page)).toContainText('What came of it');
  await reading(page)
    .getByRole('button', { name: /^\/tides\/window/ })
    .click();
  await expect(reading(page)).toContainText('Came of');
  await expect(reading(page)).toContainText(/GET \/tides\/window of gateway/);
  await visit.focus();
  await page.keyboard.press('ArrowDown');
  await expect(visit.getByRole('row', { selected: true })).toHaveCount(1);
});

test('loads of phones alone, by release, and as a file', async ({ page }) => {
  await page.goto('/pages');
  await page.getByRole('button', { name: /^Device/ }).click();
  await page.getByRole('menuitemradio', { name: 'phone' }).click();
  await expect(page).toHaveURL(/device=phone/);
  await page.getByRole('link', { name: /^\/office\/board/ }).click();
  await expect(page).toHaveURL(/device=phone/);
  await page.getByRole('link', { name: 'release', exact: true }).click();
  await expect(table(page, 'Loads by release').getByRole('row')).toHaveCount(3);
  await table(page, 'Slowest loads').getByRole('link').first().click();
  await page.getByRole('button', { name: 'Export' }).click();
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('menuitem', { name: /HTTP Archive/ }).click()
  ]);
  const { log } = JSON.parse(await textOf(await file.path())) as {
    log: { version: string; entries: object[] };
  };
  expect(log.version).toBe('1.2');
  expect(log.entries.length).toBeGreaterThan(4);
});

const textOf = async (file: string): Promise<string> => {
  let text = '';
  for await (const part of createReadStream(file, 'utf8')) text += String(part);
  return text;
};

test('a recorded archive is read into Pages', async ({ page }) => {
  await page.goto(`${EMPTY.url}/evidence`);
  await page
    .locator('input[type=file]')
    .setInputFiles(fileURLToPath(new URL('../../recordings/pages/board.har', import.meta.url)));
  await expect(page).toHaveURL(/\/pages\/loads\/[0-9a-f]{32}/);
  await expect(page.getByRole('heading', { level: 1 })).toContainText('to the load event');
  await expect(timeline(page).getByRole('row').nth(1)).toBeVisible();
});

test.describe('pages with planted times', () => {
  let site: Server;
  let origin: string;
  /** Milliseconds the document, a script that the paint waits for and a picture take, and a script holds the page. */
  const [ANSWER, SCRIPT, PICTURE, TASK] = [300, 400, 500, 240];
  const PNG = Buffer.from(
    'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
    'base64'
  );

  test.beforeAll(async () => {
    site = createServer((request, response) => {
      const { pathname, searchParams } = new URL(request.url ?? '/', 'http://localhost');
      const reply = (type: string, body: string | Buffer, afterMs: number): void =>
        void setTimeout(() => response.setHeader('content-type', type).end(body), afterMs);
      if (pathname === '/picture.png') return reply('image/png', PNG, PICTURE);
      if (pathname === '/held.js')
        return reply(
          'text/javascript',
          `addEventListener('load', () => setTimeout(function holdThePage() {
            const until = performance.now() + ${TASK};
            while (performance.now() < until);
            document.title = 'held';
          }, 50));`,
          SCRIPT
        );
      reply(
        'text/html',
        `<!doctype html><title>planted</title>
        <script src="${searchParams.get('to')}/collect.js" data-service="planted" data-release="<b>1</b>" data-key="${searchParams.get('key') ?? ''}"></script>
        <script src="/held.js"></script>
        <h1>The largest thing there is to see on this page</h1>
        <img src="/picture.png" width="20" height="20" alt="">
        <button aria-label="Say <i>hello</i>">x</button><input name="typed">`,
        ANSWER
      );
    });
    await new Promise<void>((resolve) => site.listen(0, '127.0.0.1', resolve));
    origin = `http://127.0.0.1:${(site.address() as { port: number }).port}`;
  });
  test.afterAll(() => void site.close());

  test('are told within 50 ms of what was planted, and as the browser itself measured them', async ({
    page,
    context
  }) => {
    const visited = await context.newPage();
    await visited.goto(`${origin}/planted/page?to=${EMPTY.url}`);
    await expect(visited).toHaveTitle('held');
    const browser = await visited.evaluate(async () => {
      const entry = performance.getEntriesByType('navigation')[0] as PerformanceNavigationTiming;
      const largest = await new Promise<number>((resolve) =>
        new PerformanceObserver((list) => resolve(list.getEntries().at(-1)!.startTime)).observe({
          type: 'largest-contentful-paint',
          buffered: true
        })
      );
      const [picture] = performance.getEntriesByName(
        new URL('/picture.png', location.href).href
      ) as PerformanceResourceTiming[];
      return { ttfb: entry.responseStart, lcp: largest, picture: picture.responseEnd - picture.startTime };
    });
    await visited.fill('input', 'a secret that is typed');
    await visited.click('button');
    await visited.waitForTimeout(2500);
    await visited.goto('about:blank');

    await page.goto(`${EMPTY.url}/pages`);
    await page.getByRole('link', { name: /^\/planted\/page/ }).click();
    await table(page, 'Slowest loads').getByRole('link').first().click();
    const answer = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Export' }).click();
    await page.getByRole('menuitem', { name: /JSON/ }).click();
    const load = JSON.parse(await textOf(await (await answer).path())) as {
      vitals: Record<string, number>;
      resources: { url: string; startMs: number; endMs: number }[];
      tasks: { startMs: number; endMs: number; script: string }[];
      steps: { label: string }[];
    };
    const near = (value: number, planted: number): void =>
      expect(Math.abs(value - planted)).toBeLessThanOrEqual(50);
    near(load.vitals.ttfb, ANSWER);
    near(load.vitals.ttfb, browser.ttfb);
    near(load.vitals.lcp, browser.lcp);
    near(load.vitals.lcp, ANSWER + SCRIPT);
    const picture = load.resources.find(({ url }) => url.endsWith('/picture.png'))!;
    near(picture.endMs - picture.startMs, PICTURE);
    near(picture.endMs - picture.startMs, browser.picture);
    const held = load.tasks.find(({ script }) => script.endsWith('/held.js'))!;
    near(held.endMs - held.startMs, TASK);
    // What is from outside is text, and what was typed is nowhere.
    expect(load.steps.map(({ label }) => label)).toContain('Say <i>hello</i>');
    expect(JSON.stringify(load)).not.toContain('a secret that is typed');
    await expect(page.getByText('release <b>1</b>')).toBeVisible();
  });

  test('are turned away without the key, and from a strange origin, with a count', async ({
    page,
    request
  }) => {
    const sent = (query: string, from: string) =>
      request.post(`${LOCKED.url}/collect${query}`, {
        data: JSON.stringify({ resourceSpans: [] }),
        headers: { origin: from, 'content-type': 'text/plain' }
      });
    expect((await sent('', origin)).status()).toBe(403);
    const strange = await request.post(`${EMPTY.url}/collect`, {
      data: '{}',
      headers: { origin: 'https://elsewhere.example', 'content-type': 'text/plain' }
    });
    expect(strange.status()).toBe(403);
    expect(strange.headers()['access-control-allow-origin']).toBeUndefined();
    expect(await strange.text()).toContain('TROMIX_COLLECT_ORIGINS');
    const cut = await request.post(`${EMPTY.url}/collect`, {
      data: '{"resourceSpans":[{"scopeSp',
      headers: { origin, 'content-type': 'text/plain' }
    });
    expect(cut.status()).toBe(400);
    await page.goto(`${EMPTY.url}/connect`);
    await expect(page.getByText(/Page loads are not taken from https:\/\/elsewhere\.example/)).toBeVisible();
  });
});
