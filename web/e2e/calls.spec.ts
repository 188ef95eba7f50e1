import { expect, test, type Page } from '@playwright/test';

const reading = (page: Page) => page.getByRole('complementary', { name: 'Reading' });
const calls = (page: Page) => page.getByRole('table', { name: 'Calls', exact: true });

test('files by pattern: what is done to them, who asks, and the requests', async ({ page }) => {
  await page.goto('/calls');
  await page.getByRole('link', { name: 'files', exact: true }).click();
  await expect(page).toHaveURL(/kind=file/);
  await expect(reading(page)).toContainText(/Files were opened [\d\s ]+ times; [\d.]+ [kMG]B were read/);
  const gauge = calls(page).getByRole('row', { name: /\/var\/lib\/quillhaven\/gauges\/:id\.log/ });
  await expect(gauge).toContainText('GET /tides/gauge');
  await expect(calls(page).getByRole('columnheader', { name: 'opens' })).toBeVisible();

  await gauge.getByRole('link').click();
  await expect(page).toHaveURL(/file=/);
  await expect(page.getByRole('main')).toContainText('of /var/lib/quillhaven/gauges/:id.log');
  await calls(page)
    .getByRole('row', { name: /^F?\s*readFile/ })
    .getByRole('link')
    .click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('A file call');
  await expect(page.getByRole('table', { name: 'Called on host' }).getByRole('row')).toHaveCount(2);
  await page.getByRole('link', { name: 'All requests that make it' }).click();
  await expect(
    page.getByRole('table', { name: 'Requests', exact: true }).getByRole('link').first()
  ).toBeVisible();
  await page.goBack();
  await page.goBack();
  await page.getByRole('link', { name: 'Of every file' }).click();
  await page.getByRole('link', { name: 'host', exact: true }).click();
  await expect(calls(page).getByRole('row', { name: /quay-3/ })).toBeVisible();
});

test('outgoing requests: statuses, phases, who asks, and the profile at the calling function', async ({
  page
}) => {
  await page.goto('/calls?service=gateway');
  await page.getByRole('link', { name: 'outgoing requests', exact: true }).click();
  await expect(page).toHaveURL(/kind=http/);
  await expect(calls(page).getByRole('columnheader', { name: 'status' })).toBeVisible();
  await expect(calls(page).getByRole('columnheader', { name: 'first byte' })).toBeVisible();
  await expect(reading(page)).toContainText(/the first byte came after [\d.]+ (?:ms|s) on average/);
  const pilot = calls(page)
    .getByRole('row', { name: /\/calls\/:id\/pilot/ })
    .first();
  await expect(pilot).toContainText(/200, 500 × \d+/);
  await pilot.getByRole('link').click();
  const answers = page.getByRole('region', { name: 'Answers and phases' });
  await expect(answers).toContainText(/200\s*[\d\s ]+ calls/);
  await expect(answers.getByRole('img', { name: /connect .*, to the first byte / })).toBeVisible();
  await expect(page.getByRole('table', { name: 'Called by endpoint' })).toContainText(
    'POST /calls/:id/pilot'
  );
});

test('from the line that makes a call to the profile at its function', async ({ page }) => {
  await page.goto('/calls?service=berths&kind=database');
  await calls(page)
    .getByRole('row', { name: /manifestsOneByOne/ })
    .first()
    .getByRole('link')
    .click();
  await page
    .getByRole('table', { name: 'Called from' })
    .getByRole('link', { name: /manifestsOneByOne/ })
    .click();
  await expect(page).toHaveURL(/\/profiles\/.*at=manifestsOneByOne/);
  await expect(page.getByRole('main')).toContainText('manifestsOneByOne');
});
