import { expect, test, type Page } from '@playwright/test';
import { runFleet, stopFleet } from './fleet';
import { LIVE, EMPTY, FLEET_PORT } from './servers';

const reading = (page: Page) => page.getByRole('complementary', { name: 'Reading' });
const entries = (page: Page) => page.getByTestId('entry');
/** The finding’s title says whether the values that differ were seen. */
const LOOP = /one query per row|similar queries in a loop/i;
const BERTHS = `http://127.0.0.1:${FLEET_PORT + 1}/calls/{1..60}/berth`;

test.use({ baseURL: LIVE.url });
test.afterEach(stopFleet);

/** Waits until the run that is shown has ended, and gives its number. */
async function endedRun(page: Page): Promise<number> {
  await expect(page.getByRole('link', { name: 'Repeat it' })).toBeVisible({ timeout: 90_000 });
  return Number(/Load run (\d+)/.exec(await page.getByRole('main').innerText())![1]);
}

test('a case is lived on running services: noticed, pinned, its cause, fixed, proved by two load runs, handed over', async ({
  page
}) => {
  test.setTimeout(300_000);
  await runFleet('');

  // The steps are sent at the service as it is.
  await page.goto('/load');
  const form = page.getByRole('form', { name: 'New load run' });
  await form.getByLabel('address', { exact: true }).fill(BERTHS);
  await form.getByLabel('users', { exact: true }).fill('2');
  await form.getByLabel('ramp-up, s', { exact: true }).fill('1');
  await form.getByLabel('loops', { exact: true }).fill('20');
  await page.getByText('Method, headers, body').click();
  await form.getByRole('combobox', { name: /^method/ }).selectOption('POST');
  await form.getByRole('button', { name: 'Start the run' }).click();
  const first = await endedRun(page);

  // Noticed: the finding opens a case with its cause, and the line that made the call.
  await page.goto('/?service=berths');
  const finding = reading(page)
    .locator('section')
    .filter({ has: page.getByRole('heading', { name: LOOP }) });
  await expect(async () => {
    await page.reload();
    await expect(finding).toBeVisible({ timeout: 3000 });
  }).toPass({ timeout: 60_000 });
  await finding.getByRole('button', { name: 'Open a case' }).click();
  await expect(page).toHaveURL(/\/cases\/[0-9a-f]{16}$/);
  const address = page.url();
  const cause = entries(page).filter({ has: page.getByRole('heading', { name: 'Cause', exact: true }) });
  await expect(cause).toContainText('manifestsOneByOne');
  await expect(cause).toContainText('should take');
  const drafted = await entries(page).count();

  // Pinned: a row of the calls, as it stands, with its picture.
  await page.goto('/calls?service=berths');
  const calls = page.getByRole('table', { name: 'Calls' });
  await calls.getByRole('row').nth(1).getByRole('button', { name: /more/i }).click();
  await page.getByRole('menuitem', { name: 'Pin to a case' }).click();
  await expect(page.getByText(/^Pinned to/)).toBeVisible();

  // Fixed, and the very same steps again.
  await runFleet('query-per-row');
  await page.goto('/load');
  await page
    .getByRole('main')
    .getByRole('link', { name: new RegExp(`^Load run ${first}\\b`) })
    .click();
  await page.getByRole('link', { name: 'Repeat it' }).click();
  await form.getByRole('button', { name: 'Start the run' }).click();
  const second = await endedRun(page);
  expect(second).toBeGreaterThan(first);

  // Proved: the comparison knows what it was before, and is pinned.
  await page.getByRole('link', { name: 'Compare it' }).click();
  await expect(page).toHaveURL(new RegExp(`run=${second}.*run%3D${first}`));
  await expect(page.getByRole('main')).toContainText(/with 95.% confidence/, { timeout: 60_000 });
  await expect(reading(page)).toContainText('Gone: one query per row');
  await page.keyboard.press('p');
  await expect(page.getByText(/^Pinned to/).first()).toBeVisible();
  await page.goto(address);
  await expect(entries(page)).toHaveCount(drafted + 2);
  const row = entries(page).nth(drafted);
  await expect(row.getByRole('img')).toBeVisible();
  await expect(row.locator('dl dt').first()).toBeVisible();
  await expect(entries(page).last()).toContainText(/at the median instead of/);
  await page.getByLabel('State').selectOption('proved');
  await expect(reading(page)).toContainText('✓ before and after, by the same steps');

  // Handed over: a brief, and a bundle that is the same case elsewhere.
  await page.getByRole('main').getByRole('button', { name: 'Brief' }).click();
  const brief = page.getByRole('dialog', { name: 'Brief' });
  await expect(brief.frameLocator('iframe').getByRole('heading', { level: 1 })).toContainText(LOOP);
  await brief.getByRole('button', { name: 'Close' }).click();
  const packing = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Bundle' }).click();
  const bundle = await (await packing).path();
  const figures = await page.locator('dl').allInnerTexts();
  await page.goto(`${EMPTY.url}/cases`);
  await page.locator('input[type=file]').setInputFiles(bundle);
  await expect(page).toHaveURL(/\/cases\/[0-9a-f]{16}$/, { timeout: 30_000 });
  await expect(entries(page)).toHaveCount(drafted + 2);
  expect(await page.locator('dl').allInnerTexts()).toEqual(figures);
  await expect(row.getByRole('img')).toBeVisible();
});
