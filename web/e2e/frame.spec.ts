import { VIEWS } from '../src/lib/views';
import { expect, test } from '@playwright/test';
import { BARE, EMPTY, LOCKED } from './servers';
import { tryUntil } from './try-until';

test('the scope line filters what is shown and stands in the URL', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('button', { name: /^Service:/ }).click();
  await page.getByRole('menuitemradio', { name: 'tides' }).click();
  await expect(page).toHaveURL(/service=tides/);
  const services = page.getByRole('region', { name: 'Endpoints' }).locator('tbody tr td:first-child');
  await expect(services.first()).toHaveText('tides');
  expect(new Set(await services.allTextContents())).toEqual(new Set(['tides']));
  await page.getByRole('link', { name: 'Requests' }).click();
  await expect(page).toHaveURL(/service=tides/);
  await page.getByRole('button', { name: /^Duration:/ }).click();
  await page.getByRole('menuitemradio', { name: 'slower than 100 ms' }).click();
  await expect(page).toHaveURL(/slower=100/);
});

test('a window dragged on the time rail filters everything and can be moved by keys and cleared', async ({
  page
}) => {
  await page.goto('/requests');
  const count = page.getByText(/^[\d\u202f]+ requests$/).first();
  const all = await count.textContent();
  const rail = page.getByRole('application', { name: /^Time rail/ });
  const box = (await rail.boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.7, box.y + 30);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.8, box.y + 30, { steps: 4 });
  await page.mouse.up();
  await expect(page).toHaveURL(/from=\d+&to=\d+/);
  await expect(count).not.toHaveText(all!);
  const before = new URL(page.url()).searchParams.get('from');
  await rail.focus();
  await page.keyboard.press('ArrowRight');
  await expect.poll(() => new URL(page.url()).searchParams.get('from')).not.toBe(before);
  await page.keyboard.press('Escape');
  await expect(page).not.toHaveURL(/from=/);
  await expect(count).toHaveText(all!);
});

test('the palette finds endpoints, evidence and commands', async ({ page }) => {
  await page.goto('/');
  await expect(page.locator('tbody tr').first()).toBeVisible();
  await page.keyboard.press('/');
  await page.getByRole('combobox', { name: 'Find' }).fill('berth');
  await page.getByRole('option', { name: /POST \/calls\/:id\/berth endpoint of berths/ }).click();
  await expect(page).toHaveURL(/\/endpoint\?service=berths&endpoint=POST/);
  await page.keyboard.press('/');
  await page.getByRole('combobox').fill('dark');
  await page.keyboard.press('Enter');
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'dark');
  await page.reload();
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'dark');
});

test('a question in words is completed, says what it understood, and leads to the very view', async ({
  page
}) => {
  await page.goto('/');
  await expect(page.locator('tbody tr').first()).toBeVisible();
  await page.keyboard.press('/');
  const field = page.getByRole('combobox', { name: 'Find' });
  await field.fill('wh');
  await page.getByRole('option', { name: /^why is … slow/ }).click();
  await expect(field).toHaveValue('why is ');
  await field.fill('why is post /calls');
  await page.getByRole('option', { name: /^Why is POST \/calls\/:id\/berth slow\?.*berths$/ }).click();
  await expect(page).toHaveURL(/\/compare\?.*show=why/);
  await page.keyboard.press('/');
  await field.fill('slowest requests of berths slower than 2 s');
  await page
    .getByRole('option', { name: /^Slowest requests of berths slower than 2 s/ })
    .first()
    .click();
  await expect(page).toHaveURL(/\/requests\?.*service=berths.*slower=2000/);
  await page.keyboard.press('/');
  await field.fill('what keeps TideWindow');
  await page
    .getByRole('option', { name: /^What keeps TideWindow\?/ })
    .first()
    .click();
  await expect(page).toHaveURL(/\/heap\/[0-9a-f]{64}\?.*class=TideWindow/);
  await page.keyboard.press('/');
  await field.fill('who calls highWater');
  await page
    .getByRole('option', { name: /^Who calls highWater\?/ })
    .first()
    .click();
  await expect(page).toHaveURL(/\/profiles\/[0-9a-f]{64}\?.*show=neighbours/);
  await expect(page.getByRole('main')).toContainText('highWater', { timeout: 30_000 });
});

test('keys go from view to view and are listed', async ({ page }) => {
  await page.goto('/');
  await expect(page.locator('tbody tr').first()).toBeVisible();
  await page.keyboard.press('g');
  await page.keyboard.press('e');
  await expect(page).toHaveURL(/\/evidence/);
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toContainText('go to Overview');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toHaveCount(0);
});

test('the reading folds away and stays so', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'Fold the reading away' }).click();
  await expect(page.getByRole('complementary')).toHaveCount(0);
  await page.reload();
  await expect(page.getByRole('button', { name: 'Open the reading' })).toBeVisible();
  await expect(page.getByRole('complementary')).toHaveCount(0);
});

test('an empty server says what it needs and what to do next', async ({ page }) => {
  await page.goto(BARE.url);
  await expect(page.getByRole('heading', { name: 'No requests in this time range' })).toBeVisible();
  await expect(page.getByText('OTEL_EXPORTER_OTLP_ENDPOINT')).toContainText(BARE.url);
  await page.goto(`${BARE.url}/profiles`);
  await expect(page.getByRole('heading', { name: 'No profiles in this scope' })).toBeVisible();
});

test('addresses without anything are told in words', async ({ page }) => {
  await page.goto('/nowhere');
  await expect(page.getByRole('heading', { name: 'Not found' })).toBeVisible();
  await page.goto(`/requests/${'a'.repeat(32)}/${'b'.repeat(16)}`);
  await expect(page.getByText('This request is not kept here')).toBeVisible();
});

test('a server with a token asks for it, and for the ingest token at its own address', async ({
  page,
  request
}) => {
  expect((await request.get(`${LOCKED.url}/api/palette?q=a`)).status()).toBe(401);
  await page.goto(`${LOCKED.url}/requests`);
  await expect(page).toHaveURL(/\/login\?to=%2Frequests/);
  await page.getByLabel('Access token').fill('wrong');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('alert')).toContainText('not the access token');
  await page.getByLabel('Access token').fill('harbour-master-of-quillhaven');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page).toHaveURL(`${LOCKED.url}/requests`);
  const [cookie] = await page.context().cookies(LOCKED.url);
  expect(cookie).toMatchObject({ httpOnly: true, sameSite: 'Strict' });
  const send = (token: string) =>
    request.post(`${LOCKED.url}/v1/traces`, {
      headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
      data: '{"resourceSpans":[]}'
    });
  expect((await send('harbour-master-of-quillhaven')).status()).toBe(401);
  expect((await send('gauge-of-the-west-quay')).status()).toBe(200);
});

test('who is signed in is listed, and a session ends where somebody ends it', async ({ page, browser }) => {
  const signIn = async (on: typeof page): Promise<void> => {
    await on.goto(`${LOCKED.url}/sessions`);
    await on.getByLabel('Access token').fill('harbour-master-of-quillhaven');
    await on.getByRole('button', { name: 'Sign in' }).click();
    await expect(on.getByRole('heading', { name: 'Reading' })).toBeVisible();
  };
  await signIn(page);
  const elsewhere = await (await browser.newContext()).newPage();
  await signIn(elsewhere);
  await page.reload();
  await expect(page.getByText(/this browser/)).toHaveCount(1);
  await page.getByRole('button', { name: 'End all others' }).click();
  await expect(page.getByText('All other sessions ended.')).toBeVisible();
  await elsewhere.reload();
  await expect(elsewhere).toHaveURL(/\/login/);
  await page.getByRole('button', { name: 'Sign out' }).click();
  await expect(page).toHaveURL(/\/login/);
  await elsewhere.context().close();
});

test('eight tabs of one browser all load, over one line for news, and all hear of them', async ({
  context,
  request
}) => {
  const tabs = await Promise.all(Array.from({ length: 8 }, () => context.newPage()));
  for (const tab of tabs) {
    await tab.goto(`${EMPTY.url}/`);
    await expect(tab.getByRole('heading', { name: 'Reading' })).toBeVisible();
  }
  const at = BigInt(Date.now() - 1000) * 1_000_000n;
  const name = `news for all ${Date.now()}`;
  await request.post(`${EMPTY.url}/v1/traces`, {
    headers: { 'content-type': 'application/json' },
    data: {
      resourceSpans: [
        {
          resource: { attributes: [{ key: 'service.name', value: { stringValue: 'tabs' } }] },
          scopeSpans: [
            {
              spans: [
                {
                  traceId: 'abcdef'.padStart(32, '0'),
                  spanId: '1'.padStart(16, '0'),
                  kind: 2,
                  name,
                  startTimeUnixNano: String(at),
                  endTimeUnixNano: String(at + 1000n)
                }
              ]
            }
          ]
        }
      ]
    }
  });
  for (const tab of tabs) await expect(tab.getByText(name).first()).toBeVisible({ timeout: 60_000 });
  for (const tab of tabs) await tab.close();
});

test('other origins and other names are refused, and the policy is strict', async ({ request, baseURL }) => {
  const foreign = await request.post('/api/evidence?name=x', {
    headers: { origin: 'http://evil.example' },
    data: 'x'
  });
  expect(foreign.status()).toBe(403);
  const page = await request.get(baseURL!);
  const policy = page.headers()['content-security-policy'];
  expect(policy).toContain("default-src 'self'");
  expect(policy).not.toMatch(/script-src[^;]*unsafe/);
  expect(page.headers()['x-content-type-options']).toBe('nosniff');
});

test('a fault in one view is told in words, and takes neither the frame nor the other views with it', async ({
  page
}) => {
  await page.goto('/');
  // An answer this version does not understand.
  await page.route('**/requests/__data.json*', async (route) => {
    const response = await route.fetch();
    await route.fulfill({
      response,
      body: (await response.text()).replace(/("columns":\d+),"requests":/, '$1,"other":')
    });
  });
  await page.getByRole('link', { name: 'Requests', exact: true }).click();
  const fault = page.getByRole('alert').filter({ hasText: 'This view could not be drawn' });
  await expect(fault).toContainText('is stored as before');
  await page.getByRole('link', { name: 'Calls', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Reading' })).toBeVisible();
  await expect(page).toHaveURL(/\/calls/);
  await expect(fault).toBeHidden();
  await page.unroute('**/requests/__data.json*');
  await page.getByRole('link', { name: 'Requests', exact: true }).click();
  await expect(page.getByText(/^[\d\u202f]+ requests$/).first()).toBeVisible();
});

test('every view is reached by its keys, by the navigation, and named where it is open', async ({ page }) => {
  await page.goto('/');
  await expect(page.locator('tbody tr').first()).toBeVisible();
  const views = page.getByRole('navigation', { name: 'Views' });
  for (const { name, path, key } of VIEWS) {
    await page.keyboard.press('g');
    await page.keyboard.press(key);
    await expect(page).toHaveURL((url) => url.pathname === path);
    await expect(views.getByRole('link', { name: new RegExp(`^${name}`) })).toHaveAttribute(
      'aria-current',
      'page'
    );
  }
  await page.keyboard.press('?');
  const keys = page.getByRole('dialog', { name: 'Keys' });
  for (const { name } of VIEWS) await expect(keys.getByText(`go to ${name}`)).toBeVisible();
});

test('what is found of each kind of evidence opens in its own view', async ({ page }) => {
  await page.goto('/');
  for (const [sought, path] of [
    ['heap-tides', /^\/heap\//],
    ['threads-pilots', /^\/threads\//],
    ['cpu-tides', /^\/profiles\//]
  ] as const) {
    const find = page.getByRole('combobox', { name: 'Find' });
    await tryUntil(async (patience) => {
      await page.keyboard.press('/');
      await expect(find).toBeVisible(patience);
    });
    await find.fill(sought);
    await page.getByRole('option', { name: sought }).first().click();
    await expect(page).toHaveURL((url) => path.test(url.pathname));
    await expect(page.getByText('404')).toHaveCount(0);
  }
});

test('sorting and folding ask the server for nothing', async ({ page }) => {
  const asked: string[] = [];
  // The browser itself looks for the icon when the address changes; news of watches come when they come.
  page.on(
    'request',
    (request) =>
      void (/favicon\.svg$|\/api\/watches\/count$/.test(request.url()) || asked.push(request.url()))
  );
  await page.goto('/calls');
  const calls = page.getByRole('table', { name: 'Calls' });
  await expect(calls.getByRole('link').first()).toBeVisible();
  await page.waitForTimeout(500);
  asked.length = 0;
  await calls
    .getByRole('button', { name: /^calls/ })
    .first()
    .click();
  await expect(page).toHaveURL(/sort=-?calls/);
  await calls
    .getByRole('button', { name: /^calls/ })
    .first()
    .click();
  await page.waitForTimeout(500);
  expect(asked).toEqual([]);

  await page.goto('/requests');
  await page.getByRole('link', { name: 'Open the slowest' }).click();
  const timeline = page.getByRole('treegrid');
  await expect(timeline).toBeVisible();
  await page.waitForTimeout(1500);
  asked.length = 0;
  await page.getByRole('button', { name: 'Fold all', exact: true }).click();
  await page.getByRole('button', { name: 'Unfold all' }).click();
  await page.getByLabel('combs by').selectOption('fingerprint');
  await page.waitForTimeout(500);
  expect(asked.filter((url) => url.includes('__data.json'))).toEqual([]);
});
