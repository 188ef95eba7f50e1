import { expect, test, type Page } from '@playwright/test';
import { BARE } from './servers';

/** Opens the comparison of the two load runs against berths, before and after the query per row was mended. */
async function openRuns(page: Page): Promise<void> {
  await page.goto('/compare');
  await page.getByRole('link', { name: /^berths POST \/calls\/:id\/berth: load run/ }).click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('takes', { timeout: 60_000 });
}
const reading = (page: Page) => page.getByRole('complementary', { name: 'Reading' });
const parts = (page: Page) => page.getByRole('table', { name: /What makes the difference/ });

test('a fix is proved: verdict, what made the difference, the finding gone, and the prediction judged', async ({
  page
}) => {
  test.setTimeout(120_000);
  await openRuns(page);
  await expect(page.getByRole('heading', { level: 1 })).toHaveText(
    /^POST \/calls\/:id\/berth takes \d+ ms at the median instead of 1\.\d+ s$/
  );
  await expect(page.getByRole('main')).toContainText(/times as fast, with 95.% confidence .* to .* times/);
  await expect(page.getByRole('main')).toContainText('108 and 108 requests');
  await expect(page.getByRole('img', { name: /An average request takes 1\.\d+ s on side A/ })).toBeVisible();

  const first = parts(page).locator('tbody tr').first();
  await expect(first).toContainText('select … from manifest where id = ?');
  await expect(first).toContainText(/214 ×/);
  await expect(first).toContainText('clear');
  await expect(parts(page).locator('tbody tr').last()).toContainText(/sum.*▼ −[\d.]+ m?s/);
  await expect(reading(page)).toContainText(/of what was gained comes from select … from manifest/);
  await expect(reading(page)).toContainText('Gone: one query per row');
  await expect(reading(page)).toContainText('In 108 of 108 requests before, in none of 108 now.');

  const prediction = page.getByRole('region', { name: 'Prediction' });
  await expect(prediction).toContainText(/(held|Faster than predicted|Slower than predicted)/);
  await prediction.getByRole('button', { name: 'Keep in the score' }).click();
  await expect(prediction).toContainText(/Of 1 prediction kept here, [01] held\./);
  await expect(prediction.getByRole('button', { name: 'Keep in the score' })).toBeHidden();
  // It stands in the address, and both times on the rail.
  await expect(page.getByRole('application', { name: /Side A is .*, side B/ })).toBeVisible();
  await page.reload();
  await expect(prediction).toContainText(/Of 1 prediction kept here/, { timeout: 60_000 });
});

test('the sides are swapped by a key, and everything with them', async ({ page }) => {
  test.setTimeout(120_000);
  await openRuns(page);
  await page.keyboard.press('x');
  await expect(page.getByRole('heading', { level: 1 })).toHaveText(
    /takes 1\.\d+ s at the median instead of \d+ ms$/,
    {
      timeout: 60_000
    }
  );
  await expect(parts(page).locator('tbody tr').last()).toContainText(/sum.*▲ \+[\d.]+ m?s/);
  await expect(reading(page)).toContainText('New: one query per row');
});

test('the parts open: by account, by service, and inside a call of another service', async ({ page }) => {
  test.setTimeout(120_000);
  await openRuns(page);
  await parts(page)
    .getByRole('button', { name: /GET .*tides\/window/ })
    .click();
  await expect(page.getByRole('table', { name: /^Inside GET/ })).toContainText(/tides: GET \/tides\/window/, {
    timeout: 60_000
  });
  // A link shows it open.
  await expect(page).toHaveURL(/line=http/);
  await page.goto(page.url());
  await expect(page.getByRole('table', { name: /^Inside GET/ })).toBeVisible({ timeout: 60_000 });
  await page.getByRole('link', { name: 'by account' }).click();
  await expect(parts(page)).toContainText('Database');
  await page.getByRole('link', { name: 'by service' }).click();
  await expect(page.getByRole('table', { name: /service by service/ })).toContainText('tides', {
    timeout: 60_000
  });
});

test('everything else is there too: calls, endpoints, why', async ({ page }) => {
  test.setTimeout(120_000);
  await openRuns(page);
  const nav = page.getByRole('navigation', { name: 'Parts of the comparison' });
  await nav.getByRole('link', { name: 'Everything else' }).click();
  const table = page.getByRole('table', { name: 'Every endpoint' });
  await expect(table.getByRole('link', { name: 'POST /calls/:id/berth' })).toBeVisible({ timeout: 30_000 });
  await nav.getByRole('link', { name: 'Calls' }).click();
  await expect(page.getByRole('table', { name: 'Every kind of call' })).toContainText('manifest', {
    timeout: 30_000
  });
  await nav.getByRole('link', { name: 'Why' }).click();
  await expect(page.getByRole('region', { name: 'Why' })).toContainText(/Database.*−\d+ ms/);
  await nav.getByRole('link', { name: 'Heaps' }).click();
  await expect(page.getByRole('main')).toContainText('No heap dumps on side');
});

test('why slow: one key from the overview, an endpoint and a request', async ({ page }) => {
  test.setTimeout(180_000);
  const isWhy = async (): Promise<void> => {
    await expect(page).toHaveURL(/show=why/, { timeout: 30_000 });
    await expect(page.getByRole('region', { name: 'Why' })).toContainText('a request, from A to B', {
      timeout: 60_000
    });
  };
  await page.goto('/endpoint?service=berths&endpoint=POST+%2Fcalls%2F%3Aid%2Fberth');
  await expect(page.getByRole('link', { name: 'Why slow' })).toBeVisible();
  await page.keyboard.press('y');
  await isWhy();
  await expect(page.getByRole('region', { name: 'Why' })).toContainText(
    'select … from manifest where id = ?'
  );
  // A case about it begins with what is seen here.
  await page.getByRole('button', { name: 'Open a case' }).click();
  await expect(page.getByLabel('Question')).toHaveValue('Why is POST /calls/:id/berth slow?');
  const heads = page.getByTestId('entry').getByRole('heading');
  await expect(heads.filter({ hasText: 'What makes the difference' })).toBeVisible();
  for (const title of ['Noticed', 'One slow request', 'A normal one'])
    await expect(heads.filter({ hasText: title }).first()).toBeVisible();
  await expect(page.getByRole('main')).toContainText('manifest where id = ?');
  await page.goto('/');
  await expect(page.locator('a[data-row]').first()).toBeVisible();
  await page.keyboard.press('y');
  await isWhy();
  await page.goto('/requests');
  await page.getByRole('link', { name: 'Open the slowest' }).click();
  await expect(page.getByRole('treegrid')).toBeVisible();
  await page.keyboard.press('y');
  await isWhy();
});

test('a release flag and a load run lead there', async ({ page }) => {
  test.setTimeout(120_000);
  await page.goto('/');
  await page.getByRole('link', { name: /compare berths 7\.3 with the release before/ }).click();
  await expect(page).toHaveURL(/\/compare\?.*release=7\.3/);
  await expect(page.getByRole('heading', { level: 1 })).toContainText('A request of berths', {
    timeout: 60_000
  });
  await page.goto('/load');
  await page.getByRole('link', { name: /Load run 4/ }).click();
  await page.getByRole('link', { name: 'Compare it' }).click();
  await expect(page).toHaveURL(/run=4.*run%3D3/);
});

test('sides that hold nothing, and addresses that make no sense, say so', async ({ page }) => {
  await page.goto('/compare?service=berths&a=service%3Dberths%26from%3D1000%26to%3D2000');
  await expect(page.getByRole('main')).toContainText('Side A has no requests.', { timeout: 30_000 });
  await page.goto('/compare?a=%26%26%3D%3D&leave=everything&show=nothing');
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
  await page.goto('/compare/run?run=999');
  await expect(page.getByRole('main')).toContainText('This load run is not here');
  await page.goto(`${BARE.url}/compare`);
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('What is to be held against what?');
});

test('two thread dumps and two profiles are held against each other from either side', async ({ page }) => {
  test.setTimeout(120_000);
  // A dump of a series is held against the one before it.
  await page.goto('/threads');
  await page.getByRole('table', { name: 'Thread dumps' }).getByRole('link').first().click();
  await page.getByRole('main').getByRole('link', { name: 'Compare', exact: true }).click();
  await expect(page).toHaveURL(/\/compare\/threads\?.*after=/);
  await expect(page.getByLabel('The earlier thread dump')).toBeVisible();
  await page.goto('/compare/threads');
  await expect(page.getByRole('main')).toContainText('Choose what to compare');
  const choose = async (label: string, at: number): Promise<void> => {
    const options = page.getByLabel(label).locator('option');
    await page.getByLabel(label).selectOption((await options.nth(at).getAttribute('value'))!);
  };
  await choose('The earlier thread dump', 2);
  await expect(page).toHaveURL(/before=/);
  await choose('The later thread dump', 1);
  await expect(page.getByRole('table', { name: 'Pools of both dumps' })).toBeVisible({ timeout: 30_000 });
  await expect(page.getByRole('table', { name: 'Where the threads stand' })).toContainText(/quillhaven/);
  await expect(reading(page)).toContainText(/threads on side A/);
  await page.getByRole('link', { name: 'Swap' }).click();
  await expect(page.getByRole('table', { name: 'Pools of both dumps' })).toBeVisible({ timeout: 30_000 });

  await page.goto('/compare');
  await page.getByRole('link', { name: 'berths 7.2 → 7.3' }).click();
  const nav = page.getByRole('navigation', { name: 'Parts of the comparison' });
  await nav.getByRole('link', { name: 'Profiles' }).click();
  await page.getByRole('link', { name: 'Lay them over each other' }).click();
  await expect(reading(page)).toContainText('Before:', { timeout: 60_000 });
  // A link shows a colleague the function that was chosen, and the part in view.
  const flame = page.getByRole('application').filter({ has: page.getByTestId('flame') });
  await flame.focus();
  for (const key of ['ArrowDown', 'ArrowDown', 'Enter']) await flame.press(key);
  const chosen = page.getByRole('region', { name: 'Selected' }).locator('p').first();
  const name = await chosen.innerText();
  // The address follows a moment later, and may still name what the keys passed on their way.
  await expect(page).toHaveURL((url) => url.searchParams.get('at')?.startsWith(name) ?? false);
  await page.goto(page.url());
  await expect(chosen).toHaveText(name, { timeout: 60_000 });
});

test('two heap dumps are chosen like any pair, and two requests are held beside each other', async ({
  page
}) => {
  await page.goto('/heap');
  await page.getByRole('table', { name: 'Heap dumps' }).getByRole('link').first().click();
  await page.getByRole('button', { name: /Against: / }).click();
  await page.getByRole('menuitemradio', { name: /another dump/ }).click();
  await expect(page).toHaveURL(/\/compare\/heaps\?.*after=/);
  const later = await page.getByLabel('The later heap dump').inputValue();
  const options = page.getByLabel('The earlier heap dump').locator('option');
  const ids = await options.evaluateAll((all) => all.map((one) => (one as HTMLOptionElement).value));
  const earlier = ids.filter((id) => id !== '' && id !== later).at(-1)!;
  await page.getByLabel('The earlier heap dump').selectOption(earlier);
  await expect(page).toHaveURL(new RegExp(`/heap/${later}\\?.*before=${earlier}.*show=growth`));

  await page.goto('/requests');
  const rows = page
    .getByRole('table', { name: 'Requests', exact: true })
    .locator('a[href*="/requests/"]')
    .filter({ visible: true });
  await expect(rows.nth(1)).toBeVisible();
  const [a, b] = await rows.evaluateAll((all) =>
    all.slice(0, 2).map((link) => /requests\/(\w+\/\w+)/.exec(link.getAttribute('href')!)![1])
  );
  await page.goto(`/compare/requests?before=${a}&after=${b}`);
  await expect(page).toHaveURL(new RegExp(`/requests/${b}\\?.*tab=beside`));
  await expect(page.getByText(/^This request took/)).toContainText('the other one');
  await page.goto('/compare/requests?before=x&after=y');
  await expect(page.getByRole('main')).toContainText('before=TRACE/SPAN');
});
