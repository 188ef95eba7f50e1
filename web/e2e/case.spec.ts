import { readFile } from 'node:fs/promises';
import { expect, test, type Page } from '@playwright/test';
import { BESIDE } from './servers';

const reading = (page: Page) => page.getByRole('complementary', { name: 'Reading' });
const entries = (page: Page) => page.getByTestId('entry');

test('a case writes its own first draft from a finding, is proved, and handed over as a brief', async ({
  page
}) => {
  test.setTimeout(240_000);
  await page.goto('/?service=berths');
  const finding = reading(page)
    .locator('section')
    .filter({ has: page.getByRole('heading', { name: 'One query per row' }) });
  await finding.getByRole('button', { name: 'Open a case' }).click();
  await expect(page).toHaveURL(/\/cases\/[0-9a-f]{16}$/);
  await expect(page.getByLabel('Question')).toHaveValue('POST /calls/:id/berth: one query per row');
  await expect(entries(page)).toHaveCount(7);
  for (const title of [
    'Noticed',
    'One slow request',
    'A normal one',
    'Cause',
    'What to do',
    'To reproduce',
    'To check'
  ])
    await expect(page.getByRole('heading', { name: title, exact: true })).toBeVisible();
  const cause = entries(page).filter({ hasText: 'Cause' });
  await expect(cause).toContainText('should take');
  await expect(cause).toContainText('select id, tonnes, hazard from manifest where id = ?');
  await expect(cause).toContainText('manifestsOneByOne');
  await expect(reading(page)).toContainText(/Kept: \d+ traces/);
  await expect(reading(page)).toContainText('– before and after, by the same steps');

  // Every computed sentence can be put in other words; the figures below it stay.
  await cause.getByRole('button', { name: /more/i }).click();
  await page.getByRole('menuitem', { name: 'Put it in other words' }).click();
  await page.getByLabel('What it shows, in words').fill('Each manifest is asked for by itself.');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(cause).toContainText('Each manifest is asked for by itself.');
  await expect(cause).toContainText('should take');

  // Its two requests are held beside each other from here.
  await reading(page).getByRole('link', { name: 'Slow beside normal' }).click();
  await expect(page.getByText(/^This request took/)).toContainText('the other one');

  // The proof is pinned from another view, by one key.
  await page.goto('/compare');
  await page.getByRole('link', { name: /^berths POST .*load run/ }).click();
  await expect(page.getByRole('main')).toContainText(/with 95.% confidence/, { timeout: 60_000 });
  await page.keyboard.press('p');
  await expect(page.getByText('Pinned to “POST /calls/:id/berth: one query per row”.')).toBeVisible();
  await page.getByRole('button', { name: 'Open', exact: true }).click();
  await expect(entries(page)).toHaveCount(8);
  const proof = entries(page).last();
  await expect(proof).toContainText(/takes \d+ ms at the median instead of/);
  await expect(proof.getByRole('img')).toBeVisible();
  await expect(reading(page)).toContainText('✓ before and after, by the same steps');

  // A note is saved as it is typed, and is still there after a reload.
  await page.getByRole('button', { name: /^Write a note/ }).click();
  await page
    .getByLabel('New note')
    .fill('The list endpoint **takes ids already**.\n\n<script>alert(1)</script>');
  await expect(page.getByText('Saved.')).toBeVisible();
  await page.reload();
  await expect(entries(page)).toHaveCount(9);
  await expect(entries(page).last().getByText('takes ids already')).toHaveCSS('font-weight', '700');
  await expect(entries(page).last()).toContainText('<script>alert(1)</script>');

  await page.getByLabel('State').selectOption('cause found');
  await page.getByLabel('Who was told').fill('the harbour office');
  await page.getByLabel('Who was told').press('Enter');
  await expect(reading(page)).toContainText('✓ who was told');

  const saving = page.waitForEvent('download');
  await page.getByRole('main').getByRole('button', { name: 'Brief' }).click();
  const brief = page.getByRole('dialog', { name: 'Brief' });
  await expect(brief.frameLocator('iframe').getByRole('heading', { level: 1 })).toHaveText(
    'POST /calls/:id/berth: one query per row'
  );
  await brief.getByRole('button', { name: 'Save HTML' }).click();
  const file = await (await saving).path();
  const html = await readFile(file, 'utf8');
  expect(html).toContain('<strong>takes ids already</strong>');
  expect(html).not.toContain('<script>alert');
  const alone = await page.context().newPage();
  const asked: string[] = [];
  alone.on('request', (request) => asked.push(request.url()));
  await alone.setContent(html);
  await expect(alone.getByRole('heading', { level: 1 })).toHaveText(
    'POST /calls/:id/berth: one query per row'
  );
  await expect(alone.getByRole('img').first()).toBeVisible();
  expect(asked.filter((url) => !url.startsWith('data:'))).toEqual([]);

  await brief.getByRole('button', { name: 'Close' }).click();

  // Opened elsewhere it is the same case, with the same figures, and what it stands on.
  const packing = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Bundle' }).click();
  const bundle = await (await packing).path();
  // Entries out of sight are not laid out, and have no inner text.
  const figures = await page.locator('dl').allTextContents();
  await page.goto(`${BESIDE.url}/cases`);
  await page.locator('input[type=file]').setInputFiles(bundle);
  await expect(page).toHaveURL(/\/cases\/[0-9a-f]{16}$/, { timeout: 30_000 });
  await expect(entries(page)).toHaveCount(9);
  expect(await page.locator('dl').allTextContents()).toEqual(figures);
  await expect(reading(page)).toContainText(/Kept: \d+ traces, 0 files/, { timeout: 30_000 });
  // Opened again, nothing is twice.
  await page.goto(`${BESIDE.url}/cases`);
  await page.locator('input[type=file]').setInputFiles(bundle);
  await expect(page.getByText(/This case is here already/)).toBeVisible({ timeout: 30_000 });
  await expect(entries(page)).toHaveCount(9);
  // What is no bundle is refused in words.
  await page.goto(`${BESIDE.url}/cases`);
  await page
    .locator('input[type=file]')
    .setInputFiles({ name: 'x.zip', mimeType: 'application/zip', buffer: Buffer.from('no zip at all') });
  await expect(page.getByText('It is no zip, or it is damaged.')).toBeVisible();
});

test('anything is pinned with p, to a case that is opened on the way; entries are moved and taken out with undo', async ({
  page
}) => {
  test.setTimeout(120_000);
  await page.goto('/calls');
  await expect(page.getByRole('table', { name: 'Calls' }).getByRole('link').first()).toBeVisible();
  await page.evaluate(() => localStorage.removeItem('tromix-case'));
  await page.reload();
  await expect(page.getByRole('table', { name: 'Calls' }).getByRole('link').first()).toBeVisible();
  await page.keyboard.press('p');
  const dialog = page.getByRole('dialog', { name: 'Pin to which case?' });
  await dialog.getByLabel('Question of the new case').fill('What do the calls cost?');
  await dialog.getByRole('button', { name: 'Open it' }).click();
  await expect(page.getByText(/Case “What do the calls cost\?” opened/)).toBeVisible();
  await page.goto('/');
  await expect(page.locator('a[data-row]').first()).toBeVisible();
  await page.keyboard.press('p');
  await expect(page.getByText('Pinned to “What do the calls cost?”.')).toBeVisible();
  await page.goto('/cases');
  await page
    .getByRole('table')
    .getByRole('link', { name: /What do the calls cost/ })
    .click();
  await expect(entries(page)).toHaveCount(2);
  await expect(entries(page).first()).toContainText('Calls');
  await entries(page).first().getByRole('button', { name: /more/i }).click();
  await page.getByRole('menuitem', { name: 'Move down' }).click();
  await expect(entries(page).first()).toContainText('Overview');
  await entries(page).first().getByRole('button', { name: /more/i }).click();
  await page.getByRole('menuitem', { name: 'Take it out' }).click();
  await expect(entries(page)).toHaveCount(1);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(entries(page)).toHaveCount(2);
});

test('two people who change one note lose nothing', async ({ page, context }) => {
  test.setTimeout(120_000);
  await page.goto('/cases');
  await page.getByLabel('Question of the new case').fill('Who wrote this?');
  await page.getByRole('button', { name: 'Open a case' }).click();
  await page.getByRole('button', { name: /^Write a note/ }).click();
  await page.getByLabel('New note').fill('First words.');
  await expect(page.getByText('Saved.')).toBeVisible();
  await page.getByRole('button', { name: 'Done' }).click();
  await expect(entries(page)).toHaveCount(1);
  const other = await context.newPage();
  await other.goto(page.url());
  const edit = async (on: Page): Promise<void> => {
    // A tab behind another draws nothing: its menu does not open.
    await on.bringToFront();
    await entries(on).first().getByRole('button', { name: /more/i }).click();
    await on.getByRole('menuitem', { name: 'Change the note' }).click();
  };
  await edit(page);
  await edit(other);
  await other.getByLabel('Text of Note').fill('Theirs.');
  await expect(other.getByText('Saved.')).toBeVisible();
  await page.getByLabel('Text of Note').fill('Mine.');
  const alert = page.getByRole('alert').filter({ hasText: 'Somebody else changed this meanwhile' });
  await expect(alert).toContainText('Theirs.');
  await alert.getByRole('button', { name: 'Keep mine' }).click();
  await page.getByRole('button', { name: 'Done' }).click();
  await expect(entries(page).first()).toContainText('Mine.');
});

test('every menu pins its very thing, and any view is handed on as a brief without a case', async ({
  page
}) => {
  test.setTimeout(180_000);
  const answer = await page.request.post('/api/cases', { data: { question: 'Which rows?', entries: [] } });
  const { id } = (await answer.json()) as { id: string };
  await page.goto('/calls');
  const calls = page.getByRole('table', { name: 'Calls' });
  await expect(calls.getByRole('link').first()).toBeVisible();
  await page.evaluate((one) => localStorage.setItem('tromix-case', one), id);
  await page.reload();
  await expect(page.getByRole('link', { name: /Pins go to.*Which rows/ })).toBeVisible();
  const pinned = page.getByText('Pinned to “Which rows?”.');

  const row = calls.getByRole('row').nth(1);
  // Without the letter of its account, which only repeats its colour.
  const name = (await row.getByRole('cell').first().innerText()).replace(/^[A-Z?]\s+/, '').slice(0, 30);
  await row.getByRole('button', { name: /more/i }).click();
  await page.getByRole('menuitem', { name: 'Pin to a case' }).click();
  await expect(pinned.first()).toBeVisible();

  // A finding by its "…".
  await page.goto('/?service=berths');
  const finding = reading(page)
    .locator('section')
    .filter({ has: page.getByRole('heading', { name: 'One query per row' }) });
  await finding.getByRole('button', { name: 'More' }).click();
  await page.getByRole('menuitem', { name: 'Pin to a case' }).click();
  await expect(pinned.first()).toBeVisible();
  // A chart by what it exports.
  await page.goto('/load');
  await page.getByRole('link', { name: /Load run 4/ }).click();
  await page.getByRole('main').getByRole('button', { name: 'Export' }).nth(1).click();
  await page.getByRole('menuitem', { name: 'Pin to a case' }).click();
  await expect(pinned.first()).toBeVisible();

  // A span of a request, by its own menu; its view opens with it selected.
  await page.goto('/requests');
  await page.getByRole('main').getByRole('table').getByRole('link').first().click();
  const timeline = page.getByRole('treegrid', { name: 'Timeline' });
  await timeline.getByRole('button', { name: 'More' }).nth(1).click();
  await page.getByRole('menuitem', { name: 'Pin to a case' }).click();
  await expect(pinned.first()).toBeVisible();
  await expect(page).toHaveURL(/row=/);

  // A row of a slow request's calls is not the slow request.
  await page.getByRole('link', { name: 'by call group' }).click();
  await page
    .getByRole('table', { name: 'By call group' })
    .getByRole('button', { name: 'More' })
    .first()
    .click();
  await page.getByRole('menuitem', { name: 'Pin to a case' }).click();
  await expect(pinned.first()).toBeVisible();
  await page.getByRole('link', { name: 'timeline', exact: true }).click();

  await page.keyboard.press('b');
  const brief = page.getByRole('dialog', { name: 'Brief' });
  await expect(brief.frameLocator('iframe').getByRole('heading', { level: 1 })).toBeVisible();
  await brief.getByRole('button', { name: 'short' }).click();
  await expect(brief.frameLocator('iframe').getByRole('link', { name: 'Open it in Tromix' })).toBeVisible();
  const saving = page.waitForEvent('download');
  await brief.getByRole('button', { name: 'Save Markdown' }).click();
  expect(await readFile(await (await saving).path(), 'utf8')).toMatch(/^# /);
  await brief.getByRole('button', { name: 'Close' }).click();

  await page.goto(`/cases/${id}`);
  await expect(entries(page)).toHaveCount(5);
  await expect(reading(page)).toContainText('– a slow request, and a normal one');
  await expect(entries(page).nth(4)).toContainText('By call group');
  await expect(entries(page).first()).toContainText(name);
  await expect(entries(page).first().locator('dl dt').first()).toBeVisible();
  await expect(entries(page).nth(1)).toContainText('requests with it');
  await expect(entries(page).nth(2).getByRole('img')).toBeVisible();
  await entries(page)
    .nth(3)
    .getByRole('link', { name: /open the view/i })
    .click();
  await expect(page).toHaveURL(/row=/);
  await page.request.delete(`/api/cases/${id}`);
});
