import { expect, test } from '@playwright/test';

test.describe('the time range', () => {
  test('is typed, or chosen as a day that has requests', async ({ page }) => {
    await page.goto('/requests');
    await page.getByRole('button', { name: /^Time:/ }).click();
    const menu = page.getByRole('dialog', { name: 'Time' });
    await menu.getByLabel('From').fill('2031-02-03T04:05:06');
    await menu.getByLabel('To').fill('2031-02-03T04:00:00');
    await expect(menu.getByRole('alert')).toHaveText('The end must be after the start.');
    await menu.getByLabel('To').fill('2031-02-03T05:05:06');
    await menu.getByRole('button', { name: 'Show this time' }).click();
    await expect(page).toHaveURL(/from=\d+&to=\d+/);
    const { searchParams } = new URL(page.url());
    expect(Number(searchParams.get('to')) - Number(searchParams.get('from'))).toBe(3_600_000);
    await expect(page.getByRole('button', { name: /^Time: 3 Feb 2031/ })).toBeVisible();

    // Where nothing is, the way to where something is.
    await expect(page.getByText(/The newest requests are from/)).toBeVisible();
    await page.getByRole('link', { name: 'Show the newest' }).first().click();
    await expect(page.getByText(/^[\d\u202f]+ requests$/).first()).toBeVisible();

    await page.getByRole('button', { name: /^Time:/ }).click();
    await page
      .getByRole('dialog', { name: 'Time' })
      .getByRole('button', { name: /requests$/ })
      .first()
      .click();
    await expect(page.getByText(/^[\d\u202f]+ requests$/).first()).toBeVisible();
  });

  test('is held while one reads, and handed on as it is', async ({ page, context }) => {
    await context.grantPermissions(['clipboard-read', 'clipboard-write']);
    await page.goto('/calls?service=berths');
    await page.getByRole('button', { name: 'Copy a link to this time range' }).click();
    const link = new URL(await page.evaluate(() => navigator.clipboard.readText()));
    expect(link.pathname).toBe('/calls');
    expect(link.searchParams.get('service')).toBe('berths');
    expect(Number(link.searchParams.get('to'))).toBeGreaterThan(Number(link.searchParams.get('from')));

    await page.getByRole('button', { name: 'Pause' }).click();
    await expect(page).toHaveURL(/from=\d+&to=\d+/);
    await page.getByRole('button', { name: 'Go live' }).click();
    await expect(page).not.toHaveURL(/from=/);
  });

  test('a scope is saved under a name, chosen from another view, and removed', async ({ page }) => {
    await page.goto('/requests?service=tides&slower=5');
    await page.getByRole('button', { name: 'Saved scopes' }).click();
    const menu = page.getByRole('dialog', { name: 'Saved scopes' });
    await menu.getByLabel('Name of this scope').fill('slow tides');
    await menu.getByRole('button', { name: 'Save' }).click();
    await expect(menu.getByRole('button', { name: 'slow tides', exact: true })).toBeVisible();

    await page.goto('/calls');
    await page.getByRole('button', { name: 'Saved scopes' }).click();
    await menu.getByRole('button', { name: 'slow tides', exact: true }).click();
    await expect(page).toHaveURL(/\/calls\?service=tides&slower=5/);
    await page.getByRole('button', { name: 'Saved scopes' }).click();
    await menu.getByRole('button', { name: 'Remove slow tides' }).click();
    await expect(menu.getByText('None yet.')).toBeVisible();
  });
});

test.describe('find', () => {
  const find = async (page: import('@playwright/test').Page, text: string): Promise<void> => {
    await page.keyboard.press('/');
    await expect(page.getByRole('combobox', { name: 'Find' })).toHaveValue('');
    await page.getByRole('combobox', { name: 'Find' }).fill(text);
  };

  test('knows ids of traces, functions, threads, rules and views, and starts empty each time', async ({
    page
  }) => {
    await page.goto('/requests');
    await page.getByRole('table', { name: 'Requests', exact: true }).getByRole('link').first().click();
    await expect(page).toHaveURL(/\/requests\/[0-9a-f]{32}\//);
    const [, trace] = /requests\/([0-9a-f]{32})/.exec(page.url())!;

    await page.goto('/');
    await expect(page.locator('tbody tr').first()).toBeVisible();
    await find(page, trace.slice(0, 12));
    await page.getByRole('option', { name: /trace/ }).first().click();
    await expect(page).toHaveURL(new RegExp(trace));

    await find(page, 'planBerth');
    await page.getByRole('option', { name: /planBerth in a profile/ }).click();
    await expect(page).toHaveURL(/\/profiles\/[0-9a-f]{64}\?.*find=planBerth/);
    await expect(page.getByLabel('Search functions')).toHaveValue('planBerth');

    await find(page, 'shift-planner');
    await page
      .getByRole('option', { name: /in a thread dump/ })
      .first()
      .click();
    await expect(page).toHaveURL(/\/threads\/[0-9a-f]{64}\?.*named=shift-planner/);

    await find(page, 'lock-queue');
    await expect(page.getByRole('option', { name: /Rule: / })).toHaveCount(0);
    await page.getByRole('combobox', { name: 'Find' }).fill('One query per row');
    await page.getByRole('option', { name: /^Rule: One query per row/ }).click();
    await expect(page).toHaveURL(/\/findings\/query-per-row/);
  });

  test('knows classes of indexed heap dumps', async ({ page }) => {
    await page.goto('/heap');
    await expect(page.getByRole('link', { name: /Recorder/ }).first()).toBeVisible();
    // The demo's dumps are indexed soon after the start.
    await expect(async () => {
      const answer = await page.request.get('/api/palette?q=Array');
      expect(JSON.stringify(await answer.json())).toContain('"heap"');
    }).toPass({ timeout: 60_000 });
    await find(page, 'Array');
    await page
      .getByRole('option', { name: /in a heap dump/ })
      .first()
      .click();
    await expect(page).toHaveURL(/\/heap\/[0-9a-f]{64}\?.*show=classes/);
  });
});

test('“Endpoint” without one lists those there are', async ({ page }) => {
  await page.goto('/endpoint');
  const list = page.getByRole('region', { name: 'Endpoints' });
  await list.locator('a[data-row]').first().click();
  await expect(page).toHaveURL(/\/endpoint\?service=\w+&endpoint=/);
  await page.goto('/endpoint?service=tides&endpoint=GET+/nowhere');
  await expect(page.getByText('tides has no endpoint GET /nowhere. Choose one of these.')).toBeVisible();
  await expect(list.locator('a[data-row]').first()).toBeVisible();
});

test('the navigation counts the open findings that their view lists', async ({ page }) => {
  await page.goto('/findings?last=24h');
  const count = page.getByRole('link', { name: /^Findings \d+/ });
  await expect(count).toBeVisible();
  const said = Number((await count.textContent())!.replace(/\D/g, ''));
  await expect(page.getByRole('complementary')).toContainText(`${said} findings in this scope`);
});

test('words are explained on focus, and in the glossary behind ?', async ({ page }) => {
  await page.goto('/');
  await expect(page.locator('tbody tr').first()).toBeVisible();
  await page.getByRole('button', { name: 'ledger' }).focus();
  await expect(page.getByRole('tooltip')).toContainText('Every nanosecond is booked once');
  await page.keyboard.press('?');
  await page.getByRole('link', { name: /^Glossary/ }).click();
  await expect(page.getByRole('heading', { name: 'Glossary' })).toBeVisible();
  await expect(page.getByText('Blind stretch', { exact: true })).toBeVisible();
});
