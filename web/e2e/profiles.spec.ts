import { readFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import { expect, test, type Page } from '@playwright/test';

/** Opens a demo profile by its name. */
async function openProfile(page: Page, name: RegExp, query = ''): Promise<void> {
  await page.goto('/profiles?last=3h');
  const href = await page.getByRole('link', { name }).getAttribute('href');
  await page.goto(`${href!.split('?')[0]}${query}`);
  await expect(page.getByText(/samples/).first()).toBeVisible();
}
const openTides = (page: Page, query = ''): Promise<void> => openProfile(page, /^cpu-tides-7\.2/, query);

test('shows one selection in every view', async ({ page }) => {
  const faults: string[] = [];
  page.on('pageerror', (error) => faults.push(error.message));
  await openTides(page);
  const main = page.getByRole('main');
  await main.getByRole('link', { name: 'From the leaves' }).click();
  await expect(page.getByRole('application', { name: /from the leaves/ })).toBeVisible();
  await main.getByRole('link', { name: 'In time order' }).click();
  await expect(page.getByRole('application', { name: /Stacks in time order/ })).toBeVisible();
  await main.getByRole('link', { name: 'Call tree' }).click();
  await expect(page.getByRole('treeitem').first()).toBeVisible();
  await main.getByRole('link', { name: 'Packages' }).click();
  await expect(page.getByRole('cell', { name: 'application' })).toBeVisible();
  await main.getByRole('link', { name: 'Neighbours' }).click();
  await page.getByRole('option', { name: /StampError/ }).click();
  await expect(page.getByTestId('neighbours')).toContainText('read');
  await main.getByRole('link', { name: 'Lines' }).click();
  await expect(page.getByTestId('source-lines')).toContainText('class StampError');
  await main.getByRole('link', { name: 'Requests' }).click();
  await expect(page.getByTestId('during-requests')).toContainText('GET /tides/window');
  expect(faults).toEqual([]);
});

test('acts on frames stand in the address, and each can be taken back', async ({ page }) => {
  await openTides(page);
  await page.getByRole('option', { name: /StampError/ }).click({ button: 'right' });
  await page.getByRole('menuitem', { name: 'Hide stacks through it' }).click();
  await expect(page.getByText('without stacks through StampError')).toBeVisible();
  await expect(page.getByRole('option', { name: /StampError/ })).toBeHidden();
  await expect(page).toHaveURL(/act=hide/);
  await page.reload();
  await expect(page.getByText('without stacks through StampError')).toBeVisible();
  await page.getByLabel('Take back: without stacks through StampError').click();
  await expect(page.getByRole('option', { name: /StampError/ })).toBeVisible();
  await page.getByRole('button', { name: 'Fold the runtime' }).click();
  await expect(page.getByRole('option', { name: /processTicksAndRejections/ })).toBeHidden();
});

test('tells what one endpoint burns', async ({ page }) => {
  await openTides(page, '?show=requests');
  await page.getByRole('button', { name: 'Show its CPU' }).first().click();
  await expect(page.getByText('during GET /tides/window')).toBeVisible();
  await expect(page.getByRole('option').first()).toContainText('StampError');
});

test('saves the selection as open formats', async ({ page }) => {
  await openTides(page);
  for (const [item, ending, content] of [
    ['Folded stacks', '.folded.txt', /StampError \(.*stamp\.ts:1\) \d+\n/],
    ['V8 CPU profile', '.cpuprofile', /"samples":\[/],
    ['Picture, SVG', '.svg', /<svg xmlns/]
  ] as const) {
    await page.getByRole('button', { name: 'Export' }).click();
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('menuitem', { name: item }).click()
    ]);
    expect(download.suggestedFilename()).toContain(ending);
    const stream = await download.createReadStream();
    const parts: Buffer[] = [];
    for await (const part of stream) parts.push(part as Buffer);
    expect(Buffer.concat(parts).toString('utf8')).toMatch(content);
  }
});

test('a blind stretch is explained by its samples, and the ledger says so', async ({ page }) => {
  await openProfile(page, /^cpu-berths-7\.3/, '?show=requests');
  // The one that computed most, from the profile that saw it.
  await page.getByTestId('during-requests').getByRole('link').first().click();
  await expect(page.getByRole('treegrid')).toBeVisible();
  await expect(page.getByText(/By its samples it computed for/).first()).toBeVisible();
  await expect(page.getByText(/of unseen explained by a profile/).first()).toBeVisible();
  await expect(page.getByTestId('explained')).toContainText(
    /of unseen explained by a profile: the\s+process\s+computed/
  );
  await expect(page.getByRole('link', { name: /in Profiles/ }).first()).toBeVisible();
});

test('an allocation profile is read in bytes, folded stacks from a drop of text', async ({
  page,
  request
}) => {
  await page.goto('/profiles?last=3h');
  await page.getByRole('link', { name: /^allocation-tides/ }).click();
  await expect(page.getByRole('complementary')).toContainText(/allocated \d.* [kM]B/);
  const sent = await request.post('/api/evidence?name=stacks.txt', { data: 'main;load 30\nmain;sort 70\n' });
  const { id } = (await sent.json()) as { id: string };
  await page.goto(`/profiles/${id}`);
  await expect(page.getByRole('option', { name: /sort/ })).toContainText('70');
  await request.delete(`/api/evidence/${id}`);
});

test('several files are one profile: each a thread, together or apart', async ({ page }) => {
  await page.goto('/profiles?last=3h');
  await page.getByRole('link', { name: /^cpu-tides-7\.2/ }).click();
  await expect(page.getByTestId('flame')).toBeVisible();
  await page.getByRole('button', { name: 'Add a file' }).click();
  await page
    .getByRole('menuitem', { name: /^berths/ })
    .first()
    .click();
  await expect(page).toHaveURL(/with=[0-9a-f]{64}/);
  const threads = page.getByRole('combobox', { name: 'thread' });
  await expect(threads.locator('option')).toHaveText([
    'all 2',
    /^tides \d+, [\d.]+\s?%$/,
    /^berths \d+, [\d.]+\s?%$/
  ]);
  const functions = page.getByRole('listbox', { name: /Functions by/ });
  await expect(functions.getByRole('option').first()).toBeVisible();
  await threads.selectOption({ index: 2 });
  await expect(page).toHaveURL(/thread=1/);
  await page.getByRole('link', { name: /Take back: together with/ }).click();
  await expect(page).not.toHaveURL(/with=/);
});

test('a link shows a colleague the same: the function that was chosen, and what was searched for', async ({
  page
}) => {
  await openTides(page);
  await page.getByRole('option', { name: /StampError/ }).click();
  await expect(page.getByTestId('selected-function')).toHaveText('StampError');
  await expect(page).toHaveURL(/at=StampError/);
  await page.getByPlaceholder(/Search/).fill('highWater');
  await expect(page).toHaveURL(/find=highWater/);
  const flame = page.getByRole('application').filter({ has: page.getByTestId('flame') });
  await flame.focus();
  for (let i = 0; i < 3; i++) await flame.press('+');
  await expect(page).toHaveURL(/zoom=0\.\d+-0\.\d+/);
  const zoomed = page.url();
  await page.goto(page.url());
  await expect(page.getByTestId('selected-function')).toHaveText('StampError');
  await expect(page.getByPlaceholder(/Search/)).toHaveValue('highWater');
  await expect(page.getByRole('button', { name: 'Show all' })).toBeVisible();
  expect(page.url()).toBe(zoomed);
  // What is taken back goes from the address too.
  await page.getByRole('button', { name: 'Show all' }).click();
  await page.getByPlaceholder(/Search/).fill('');
  await expect(page).not.toHaveURL(/zoom=|find=/);
});

test('profiles of other runtimes: what is measured, threads and labels are chosen, and saved again', async ({
  page
}) => {
  const ids: string[] = [];
  const noteOpened = (): void => void ids.push(/[0-9a-f]{64}/.exec(page.url())![0]);
  const made = (name: string): Buffer =>
    readFileSync(new URL(`../../recordings/profiles/${name}`, import.meta.url));
  await page.goto('/evidence');
  await page
    .getByLabel('Evidence file')
    .setInputFiles([
      { name: 'tides-heap.pb.gz', mimeType: 'application/gzip', buffer: made('go/heap.pb.gz') }
    ]);
  await expect(page).toHaveURL(/\/profiles\/[0-9a-f]{64}/);
  noteOpened();
  const reading = page.getByRole('complementary', { name: 'Reading' });
  await expect(reading).toContainText(/6\.56\sMB were in use when it was recorded/);
  await expect(reading.getByRole('heading', { name: 'Hot function' })).toBeHidden();
  await page.getByRole('combobox', { name: /^weigh by/ }).selectOption('alloc objects');
  await expect(reading).toContainText(/The process allocated 414 objects/);
  await expect(page.getByRole('option', { name: /main\.passStamps/ })).toContainText('72');

  await page.goto('/evidence');
  await page
    .getByLabel('Evidence file')
    .setInputFiles([{ name: 'tides-cpu.pb.gz', mimeType: 'application/gzip', buffer: made('go/cpu.pb.gz') }]);
  await expect(reading).toContainText(/computed for 2\.93\ss in the 3\.12\ss it was recorded/);
  noteOpened();
  const endpoint = page.getByRole('combobox', { name: /^endpoint/ });
  await expect(endpoint.getByRole('option', { name: /^\/tides, 67/ })).toBeAttached();
  await endpoint.selectOption({ index: 2 });
  await expect(page.getByRole('option', { name: /main\.residue/ })).toContainText('100');
  await expect(page).toHaveURL(/label=endpoint/);
  // What is saved is the selection, and opens as the same.
  const saving = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Export' }).click();
  await page.getByRole('menuitem', { name: 'Protobuf profile, gzip' }).click();
  const saved = readFileSync((await (await saving).path())!);
  expect(gunzipSync(saved).includes(Buffer.from('main.residue'))).toBe(true);
  expect(gunzipSync(saved).includes(Buffer.from('main.harmonic'))).toBe(false);

  await page.goto('/evidence');
  await page
    .getByLabel('Evidence file')
    .setInputFiles([
      { name: 'board-trace.json.gz', mimeType: 'application/gzip', buffer: made('chromium-trace.json.gz') }
    ]);
  const thread = page.getByRole('combobox', { name: /^thread/ });
  await expect(thread).toBeVisible();
  noteOpened();
  await expect(thread.getByRole('option', { name: /CrRendererMain, \d+/ })).toHaveCount(2);
  await thread.selectOption({
    label: (await thread.getByRole('option', { name: /DedicatedWorker/ }).textContent())!
  });
  await expect(page.getByRole('option', { name: /highWater/ })).toBeVisible();
  await expect(page.getByRole('option', { name: /^plan/ })).toBeHidden();
  for (const id of ids) await page.request.delete(`/api/evidence/${id}`);
});
