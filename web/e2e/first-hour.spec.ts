import { expect, test, type Page } from '@playwright/test';

// From the start to the cause, as a stranger: by mouse, and by keyboard alone.

/** The line of code that a request’s costliest finding is about, with its text. */
const lineOfCode = (page: Page) =>
  page.getByRole('complementary', { name: 'Reading' }).getByTestId('source').locator('.bg-pen-soft');

test('by mouse: the first finding is there at once, its line of code one click further', async ({ page }) => {
  const begun = Date.now();
  await page.goto('/');
  const reading = page.getByRole('complementary', { name: 'Reading' });
  const finding = reading.getByRole('link', { name: /^Open a typical/ }).first();
  await expect(finding).toBeVisible();
  expect(Date.now() - begun).toBeLessThan(30_000);
  await finding.click();
  await expect(lineOfCode(page)).toContainText(/\w+/);
});

test('by keyboard alone: six keys from the overview to the line of code', async ({ page }) => {
  await page.goto('/');
  await expect(page.getByRole('complementary', { name: 'Reading' })).toContainText(/\w+/);
  await page.keyboard.press('g');
  await page.keyboard.press('f');
  await expect(page.getByRole('heading', { name: 'Findings', level: 1 })).toBeVisible();
  // The first is that a release is slower; the second is why.
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(lineOfCode(page)).toContainText(/\w+/);
});

for (const path of ['/', '/requests', '/calls', '/findings', '/failures', '/cases', '/watches'])
  test(`${path}: arrows go to its list at once, and so does the second tab`, async ({ page }) => {
    await page.goto(path);
    await expect(page.locator('[data-list] [data-row]').first()).toBeVisible();
    await page.keyboard.press('ArrowDown');
    await expect(page.locator('[data-row]:focus')).toHaveCount(1);
    const first = await page.locator('[data-row]:focus').getAttribute('href');
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('ArrowUp');
    await expect(page.locator('[data-row]:focus')).toHaveAttribute('href', first!);

    await page.reload();
    await expect(page.locator('[data-list] [data-row]').first()).toBeVisible();
    await page.keyboard.press('Tab');
    await expect(page.getByRole('link', { name: 'Skip to the view' })).toBeFocused();
    await page.keyboard.press('Tab');
    await page.keyboard.press('Enter');
    await expect(page.locator('[data-row]:focus')).toHaveCount(1);
    await page.keyboard.press('Enter');
    await expect(page).not.toHaveURL(new RegExp(`${path}$`));
  });
