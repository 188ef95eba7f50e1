import { expect, test } from '@playwright/test';

test('from the endpoint that costs the most to the line of code', async ({ page }) => {
  await page.goto('/');
  // The endpoint that costs the most stands first, with its share of all time.
  const first = page.getByRole('region', { name: 'Endpoints' }).locator('tbody tr').first();
  await expect(first).toContainText('berths');
  await expect(first).toContainText('POST /calls/:id/berth');
  await expect(first).toContainText('%');
  await expect(page.getByRole('complementary', { name: 'Reading' })).toContainText('release 7.3');

  // One slow request of it.
  await page.getByRole('link', { name: 'Open a typical one' }).first().click();
  await expect(page).toHaveURL(/\/requests\/[0-9a-f]{32}\/[0-9a-f]{16}/);
  const reading = page.getByRole('complementary', { name: 'Reading' });
  await expect(reading).toContainText('querying the database 214 times');
  await expect(reading).toContainText('One query per row');
  await expect(reading).toContainText(/berths\/plan\.ts:\d+ manifestsOneByOne/);
  await expect(reading).toContainText('The request should then take');
  await expect(reading.getByTestId('statement')).toContainText('id = ?');
  await expect(page.getByRole('img', { name: /^Ledger:/ })).toBeVisible();
  await expect(
    page.getByRole('row', { name: /Database: select id, tonnes, hazard from manifest.*214 calls/ })
  ).toBeVisible();

  // The CPU profile of the process for the same moments.
  await reading
    .getByRole('link', { name: /in Profiles/ })
    .first()
    .click();
  await expect(page).toHaveURL(/\/profiles\/[0-9a-f]{64}.*cutFrom=\d+&cutTo=\d+/);
  await expect(page.getByTestId('flame')).toBeVisible();
  await page.getByRole('button', { name: 'Follow the heaviest branch' }).click();

  // The function and its line.
  await expect(page.getByTestId('selected-function')).toHaveText('craneHours');
  await expect(page.getByTestId('selected-place')).toHaveText('berths/rank.ts:24');
});

test('brushing the CPU strip weighs everything anew', async ({ page }) => {
  await page.goto('/profiles');
  await page
    .getByRole('link', { name: /cpu-tides/ })
    .first()
    .click();
  const functions = page.getByRole('listbox', { name: /Functions/ });
  await expect(functions.getByRole('option').first()).toBeVisible();
  const samples = page.getByText(/samples? · stronger/);
  const before = await samples.textContent();
  const strip = (await page.getByTestId('cpu-strip').boundingBox())!;
  await page.mouse.move(strip.x + 200, strip.y + 30);
  await page.mouse.down();
  await page.mouse.move(strip.x + 320, strip.y + 30, { steps: 5 });
  await page.mouse.up();
  await expect(page).toHaveURL(/cutFrom=/);
  await expect(samples).not.toHaveText(before!);
  // The link reproduces the selection.
  const url = page.url();
  const after = await samples.textContent();
  await page.goto(url);
  await expect(samples).toHaveText(after!);
});

test('search, keys and hover facts of the flame graph', async ({ page }) => {
  await page.goto('/profiles');
  await page
    .getByRole('link', { name: /cpu-tides/ })
    .first()
    .click();
  await page.getByRole('textbox', { name: 'Search functions' }).fill('harmonicSum');
  await expect(page.getByText(/1 function, .+ of the CPU selected/)).toBeVisible();
  await page.getByRole('option', { name: /harmonicSum/ }).click();
  await expect(page.getByTestId('selected-place')).toHaveText(/tides\/harmonic\.ts:\d+/);
  await page.getByRole('application', { name: /harmonicSum/ }).focus();
  await page.keyboard.press('ArrowUp');
  await expect(page.getByTestId('selected-function')).toHaveText('highWater');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Show all' })).toBeVisible();
  await page.keyboard.press('0');
  const box = (await page.getByTestId('flame').boundingBox())!;
  // Below the line of what all stacks share.
  await page.mouse.move(box.x + 40, box.y + 34);
  await expect(page.getByRole('tooltip')).toContainText(/self .+ total /);
});

test('the timeline unfolds a comb and folds it again by keys', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('link', { name: 'Open a typical one' }).first().click();
  const comb = page.getByRole('row', { name: /214 calls/ });
  await comb.click();
  await page.getByRole('treegrid', { name: 'Timeline' }).focus();
  await page.keyboard.press('ArrowRight');
  await expect(comb).toHaveCount(0);
  await page.keyboard.press('-');
  await expect(comb).toHaveCount(1);
});
