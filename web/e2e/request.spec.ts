import { readFile } from 'node:fs/promises';
import { expect, test, type Locator, type Page } from '@playwright/test';
import { EMPTY } from './servers';
import { tryUntil } from './try-until';

/** One request in depth: its tabs, its neighbours, what mending would give, and traces of many spans. */
const reading = (page: Page): Locator => page.getByRole('complementary', { name: 'Reading' });
const timeline = (page: Page): Locator => page.getByRole('treegrid', { name: 'Timeline' });
const rowsOf = async (page: Page): Promise<number> =>
  Number(await timeline(page).getAttribute('aria-rowcount'));

async function openSlow(page: Page): Promise<void> {
  await page.goto('/');
  await page.getByRole('link', { name: 'Open a typical one' }).first().click();
  await expect(timeline(page)).toBeVisible();
}

test('a normal request beside it says what is extra, more and slower', async ({ page }) => {
  await openSlow(page);
  await page.getByRole('link', { name: 'beside a normal one' }).click();
  await expect(page).toHaveURL(/tab=beside/);
  const beside = page.getByRole('region', { name: 'Beside a normal request' });
  await expect(beside.getByRole('row').nth(1)).toBeVisible();
  await expect(page.getByText(/^This request took/)).toContainText('the normal one');
  const differing = async (): Promise<string[]> =>
    (await beside.getByRole('row').allTextContents()).slice(1).filter((row) => !row.endsWith('='));
  const all = await beside.getByRole('row').count();
  const before = await differing();
  await page.getByLabel('only what differs').check();
  // What is alike goes, but for what stands above a difference.
  expect(await beside.getByRole('row').count()).toBeLessThanOrEqual(all);
  expect(await differing()).toEqual(before);
  // A link shows a colleague what is alike too, where it is asked for.
  await page.getByLabel('only what differs').uncheck();
  await expect(page).toHaveURL(/alike=1/);
  const whole = await beside.getByRole('row').count();
  await page.reload();
  await expect(page.getByLabel('only what differs')).not.toBeChecked();
  await expect(beside.getByRole('row')).toHaveCount(whole);
  // It is a request of its own.
  const title = await page.getByRole('heading', { level: 1 }).textContent();
  await page.getByRole('link', { name: /^Open the normal one of/ }).click();
  await expect(page.getByRole('heading', { level: 1 })).not.toHaveText(title!);
});

test('what mending would give is drawn on the timeline, and taken away again', async ({ page }) => {
  await openSlow(page);
  const mend = reading(page).getByRole('button', { name: 'Preview the fix' }).first();
  await mend.click();
  await expect(page.getByText(/^The thin bars: with/)).toContainText('at the least');
  await expect(reading(page).getByRole('button', { name: 'Hide the preview' })).toHaveAttribute(
    'aria-pressed',
    'true'
  );
  await reading(page).getByRole('button', { name: 'Hide the preview' }).click();
  await expect(page.getByText(/^The thin bars: with/)).toBeHidden();
});

test('by call group and by service the same request is a table, with its sums', async ({ page }) => {
  await openSlow(page);
  await page.getByRole('link', { name: 'by call group' }).click();
  const groups = page.getByRole('table');
  await expect(groups.getByRole('row').filter({ hasText: 'from manifest' })).toContainText('214');
  const [saved] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'CSV' }).click()
  ]);
  const lines = (await readFile(await saved.path(), 'utf8')).trim().split(/\r?\n/);
  // A head, and a line for each of the four things it asks.
  expect(lines).toHaveLength(5);
  expect(lines.some((line) => line.includes('select id, tonnes, hazard from manifest where id = ?'))).toBe(
    true
  );
  await page.getByRole('link', { name: 'by service' }).click();
  for (const service of ['berths', 'tides'])
    await expect(page.getByRole('table').getByRole('row').filter({ hasText: service }).first()).toBeVisible();
});

test('folds and combs are changed by buttons, and by parent or by what is asked', async ({ page }) => {
  await openSlow(page);
  const begun = await rowsOf(page);
  await page.getByRole('button', { name: 'Fold all', exact: true }).click();
  await expect.poll(() => rowsOf(page)).toBeLessThan(begun);
  await page.getByRole('button', { name: 'Unfold all' }).click();
  await expect.poll(() => rowsOf(page)).toBeGreaterThan(200);
  await page.getByLabel('combs by').selectOption('fingerprint');
  // Opened combs stay open under their own names; fold them all again by key.
  await timeline(page).focus();
  await page.keyboard.press('-');
  await expect.poll(() => rowsOf(page)).toBeLessThanOrEqual(begun);
  await expect(page.getByRole('row', { name: /from manifest.*214 calls/ })).toBeVisible();
});

test('the next slower and the next faster request are one click away, and back', async ({ page }) => {
  await openSlow(page);
  const first = page.url().split('?')[0];
  await page.getByRole('link', { name: 'faster ›' }).click();
  await expect(page).not.toHaveURL(new RegExp(first));
  await expect(timeline(page)).toBeVisible();
  await page.getByRole('link', { name: '‹ slower' }).click();
  await expect(page).toHaveURL(new RegExp(first));
});

test('a trace of 20,000 spans opens along its heaviest branch and is scrolled to its end', async ({
  page,
  playwright
}) => {
  const api = await playwright.request.newContext({ baseURL: EMPTY.url });
  const traceId = '9'.repeat(32);
  const start = Date.now() - 60_000;
  const time = (ms: number): string => `${Math.round((start + ms) * 1000)}000`;
  const id = (n: number): string => n.toString(16).padStart(16, '0');
  const span = (n: number, parent: number, from: number, to: number, name: string): object => ({
    traceId,
    spanId: id(n),
    ...(parent > 0 ? { parentSpanId: id(parent) } : {}),
    name,
    kind: parent > 0 ? 1 : 2,
    startTimeUnixNano: time(from),
    endTimeUnixNano: time(to)
  });
  // A hundred branches of two hundred steps, each step of its own name; one branch takes half of the time.
  const spans = [span(1, 0, 0, 10_000, 'GET /everything')];
  for (let branch = 0, at = 0, n = 2; branch < 100; branch++) {
    const length = branch === 42 ? 5000 : 50;
    const parent = n++;
    spans.push(span(parent, 1, at, at + length, `branch ${branch}`));
    for (let step = 0; step < 199; step++, n++)
      spans.push(
        span(
          n,
          parent,
          at + (step * length) / 200,
          at + ((step + 1) * length) / 200,
          `step ${branch}.${step}`
        )
      );
    at += length;
  }
  const resource = { attributes: [{ key: 'service.name', value: { stringValue: 'everything' } }] };
  for (let from = 0; from < spans.length; from += 5000) {
    const answer = await api.post('/v1/traces', {
      data: { resourceSpans: [{ resource, scopeSpans: [{ spans: spans.slice(from, from + 5000) }] }] }
    });
    expect(answer.status()).toBe(200);
  }
  const faults: string[] = [];
  page.on('pageerror', (error) => faults.push(error.message));
  await tryUntil(async (patience) => {
    await page.goto(`${EMPTY.url}/requests/${traceId}/${id(1)}`);
    await expect(page.getByRole('row', { name: /branch 0/ })).toBeVisible(patience);
    // The process, the root, a hundred branches, and the steps of the heaviest one.
    expect(await rowsOf(page)).toBe(1 + 1 + 100 + 199);
  });
  await page.getByRole('button', { name: 'Unfold all' }).click();
  await expect.poll(() => rowsOf(page)).toBe(1 + 1 + 100 * 200);
  await page.getByRole('button', { name: 'Heaviest branch' }).click();
  await expect.poll(() => rowsOf(page)).toBe(1 + 1 + 100 + 199);
  await page.getByRole('button', { name: 'Unfold all' }).click();
  await timeline(page).evaluate((element) => (element.scrollTop = element.scrollHeight));
  await expect(page.getByRole('row', { name: /step 99\.198/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /step 0\.0,/ })).toHaveCount(0);
  await expect(reading(page)).toContainText('This request spent');
  expect(faults).toEqual([]);
  await api.dispose();
});

test('a link shows a colleague the same rows, unfolded and chosen; another request begins anew', async ({
  page
}) => {
  await openSlow(page);
  const comb = timeline(page).getByRole('row', { expanded: false }).first();
  await comb.click();
  await comb.press('Enter');
  await expect(page).toHaveURL(/comb=/);
  await expect(page).toHaveURL(/row=/);
  const rows = await rowsOf(page);
  await page.goto(page.url());
  await expect.poll(() => rowsOf(page)).toBe(rows);
  await page
    .getByRole('link', { name: /faster ›|‹ slower/ })
    .first()
    .click();
  await expect(page).not.toHaveURL(/comb=/);
  await expect(page.getByRole('link', { name: 'by call group' })).not.toHaveAttribute('href', /comb=/);
});
