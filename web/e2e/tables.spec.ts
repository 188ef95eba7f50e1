import { expect, test, type Page } from '@playwright/test';

const table = (page: Page, name: string) => page.getByRole('table', { name, exact: true });
const conditions = (page: Page) => page.getByTestId('table-conditions');

/** Drags over a part of a picture, from one share of its width to another. */
async function dragOver(page: Page, from: number, to: number): Promise<void> {
  const box = (await page.getByRole('application', { name: /requests over time/ }).boundingBox())!;
  const y = box.y + box.height / 2;
  await page.mouse.move(box.x + from * box.width, y);
  await page.mouse.down();
  await page.mouse.move(box.x + to * box.width, y, { steps: 5 });
  await page.mouse.up();
}

test('a part of a picture that is dragged over is all that is looked at, until a double click', async ({
  page
}) => {
  await page.goto('/requests?last=1h');
  // All of few requests are listed, and counted in other words.
  const counted = async (): Promise<number> =>
    Number(
      (
        await page
          .getByText(/of [\d\s]+ listed|^[\d\s]+ requests?$/)
          .first()
          .innerText()
      ).replace(/.*of|\D/g, '')
    );
  const all = await counted();
  await dragOver(page, 0.75, 0.9);
  await expect(page).toHaveURL(/from=\d+&to=\d+/);
  await expect(page.getByText(/listed|requests$/).first()).toBeVisible();
  await expect.poll(counted).toBeLessThan(all);
  await page.getByRole('application', { name: /requests over time/ }).dblclick();
  await expect(page).not.toHaveURL(/from=/);
});

test('requests are picked by a part of an attribute, and by what it is not', async ({ page }) => {
  await page.goto('/requests?last=1h');
  for (const [comparison, text, words] of [
    ['contains', 'BERTH', 'http.route contains BERTH'],
    ['does not start with', '/office', 'http.route does not start with /office']
  ]) {
    await page.getByRole('button', { name: 'condition', exact: true }).click();
    await page.getByRole('combobox', { name: 'Name' }).fill('http.route');
    await page.getByLabel('Comparison').selectOption(comparison);
    await page.getByRole('combobox', { name: 'Value' }).fill(text);
    await page.getByRole('button', { name: 'Add' }).click();
    await expect(page.getByText(words)).toBeVisible();
  }
  const endpoints = table(page, 'Requests').locator('[role=row]:not(:first-child) [role=cell]:nth-child(3)');
  await expect(endpoints.first()).toBeVisible();
  for (const name of await endpoints.allInnerTexts()) expect(name).toMatch(/^\w+ \/(?!office).*berth/);
  await page.reload();
  await expect(page.getByText('http.route contains BERTH')).toBeVisible();
});

test('a table is filtered, and its columns chosen, in its address', async ({ page }) => {
  await page.goto('/calls?kind=http&last=1h');
  const calls = table(page, 'Calls');
  // The service that answers stands for its address.
  await expect(calls.getByText('POST pilots/roster/entries')).toBeVisible();
  const before = await calls.getByRole('row').count();
  await page.getByRole('button', { name: 'Filter Calls' }).click();
  await page.getByLabel('Text').fill('roster');
  await page.getByRole('button', { name: 'Add' }).click();
  await expect(conditions(page)).toContainText('outgoing request contains roster');
  await expect(conditions(page)).toContainText(/1 of \d+ rows/);
  await expect(calls.getByRole('row')).toHaveCount(2);
  await page.getByRole('button', { name: 'Columns of Calls' }).click();
  await page.getByRole('menuitemcheckbox', { name: 'slowest' }).click();
  await page.getByRole('menuitemcheckbox', { name: 'p95' }).click();
  await page.keyboard.press('Escape');
  await expect(calls.getByRole('columnheader', { name: 'slowest' })).toBeVisible();
  await expect(calls.getByRole('columnheader', { name: 'p95' })).toHaveCount(0);
  await calls.getByRole('button', { name: 'slowest' }).click();
  await expect(page).toHaveURL(/sort=-slowest/);
  // All of it is in the address.
  await page.reload();
  await expect(calls.getByRole('row')).toHaveCount(2);
  await expect(calls.getByRole('columnheader', { name: 'p95' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Without the condition outgoing request contains roster' }).click();
  await expect(calls.getByRole('row')).toHaveCount(before);
});

test('beyond a thousand rows more are listed as the list is scrolled to its end', async ({ page }) => {
  await page.goto('/requests?last=1h');
  await expect(page.getByText(/1\D?000 of [\d\s]+ listed/)).toBeVisible();
  await table(page, 'Requests').evaluate((element) => element.scrollTo(0, element.scrollHeight));
  await expect(page.getByText(/2\D?000 of [\d\s]+ listed/)).toBeVisible();
  await expect(page).toHaveURL(/rows=2000/);
});

test('names and durations stay in sight in a narrow window, and all columns in a wide one', async ({
  page
}) => {
  await page.setViewportSize({ width: 1024, height: 800 });
  await page.goto('/requests?last=1h');
  const header = table(page, 'Requests').getByRole('columnheader', { name: 'duration' });
  await expect(header).toBeInViewport({ ratio: 1 });
  await page.goto('/calls?kind=http&last=1h');
  const name = table(page, 'Calls').getByText('POST pilots/roster/entries');
  const whole = (): Promise<boolean> =>
    name.evaluate((element) => element.scrollWidth <= element.clientWidth);
  const total = table(page, 'Calls').getByRole('columnheader', { name: 'total' });
  await expect(total).toBeInViewport({ ratio: 1 });
  await page.setViewportSize({ width: 1920, height: 1000 });
  await expect(table(page, 'Calls').getByRole('columnheader', { name: 'most in one' })).toBeVisible();
  expect(await whole()).toBe(true);
});

test('a failed request says first why it failed, and what is selected is in sight', async ({ page }) => {
  await page.goto('/requests?last=1h&status=failed&service=pilots');
  await table(page, 'Requests').getByRole('link').first().click();
  const reading = page.getByRole('complementary', { name: 'Reading' });
  await expect(reading.locator('p').first()).toContainText(/It failed of .+ in .+/);
  await page.getByRole('treegrid').getByRole('row').nth(3).click();
  await expect(reading.getByRole('region', { name: 'Selected' }).getByRole('heading')).toBeInViewport();
});
