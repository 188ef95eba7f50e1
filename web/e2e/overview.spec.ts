import { readFile } from 'node:fs/promises';
import { expect, test, type Locator, type Page } from '@playwright/test';

/** The ways from the overview: its rows and ranks, and where they lead. */
const region = (page: Page): Locator => page.getByRole('region', { name: /^(Endpoints|By .+)$/ });

/** The table as it is saved: head names, and the rows in the order shown. */
async function saved(page: Page): Promise<Record<string, string>[]> {
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'CSV' }).first().click()
  ]);
  const [head, ...lines] = (await readFile(await download.path(), 'utf8'))
    .trim()
    .split(/\r?\n/)
    .map((line) => [...line.matchAll(/("(?:[^"]|"")*"|[^,]*)(?:,|$)/g)].map(([, cell]) => cell));
  return lines.map((cells) => Object.fromEntries(head.map((name, i) => [name, cells[i]])));
}
const numbers = (rows: readonly Record<string, string>[], column: string): number[] =>
  rows.map((row) => Number(row[column]));
const descending = (values: readonly number[]): number[] => values.toSorted((a, b) => b - a);

test('every rank orders the rows by its own figure and stands in the URL', async ({ page }) => {
  await page.goto('/');
  await expect(region(page)).toBeVisible();
  for (const [rank, of] of [
    ['count', (rows: Record<string, string>[]) => numbers(rows, 'count')],
    [
      'mean',
      (rows: Record<string, string>[]) =>
        numbers(rows, 'totalNs').map((ns, i) => ns / numbers(rows, 'count')[i])
    ],
    ['p95', (rows: Record<string, string>[]) => numbers(rows, 'p95Ns')],
    ['failed', (rows: Record<string, string>[]) => numbers(rows, 'failed')],
    ['total time', (rows: Record<string, string>[]) => numbers(rows, 'exclusiveNs')]
  ] as const) {
    await page.getByRole('link', { name: rank, exact: true }).click();
    if (rank === 'total time') await expect(page).not.toHaveURL(/rank=/);
    else await expect(page).toHaveURL(new RegExp(`rank=${rank}`));
    const values = of(await saved(page));
    expect(values.length).toBeGreaterThan(5);
    expect(values).toEqual(descending(values));
  }
});

test('the same time is shared out among endpoints, services, hosts and releases', async ({ page }) => {
  await page.goto('/');
  const sums: number[] = [];
  for (const kind of ['endpoints', 'services', 'hosts', 'releases']) {
    await page.getByRole('link', { name: kind, exact: true }).click();
    if (kind !== 'endpoints') await expect(page).toHaveURL(new RegExp(`rows=${kind}`));
    const rows = await saved(page);
    expect(new Set(rows.map(({ service, name }) => `${service} ${name}`)).size).toBe(rows.length);
    // Every nanosecond counts once, whatever the rows are.
    expect(numbers(rows, 'share').reduce((sum, share) => sum + share, 0)).toBeCloseTo(1, 6);
    sums.push(numbers(rows, 'exclusiveNs').reduce((sum, ns) => sum + ns, 0));
  }
  for (const sum of sums) expect(sum).toBe(sums[0]);
});

test('a row narrows the scope and leads on under it, and back', async ({ page }) => {
  await page.goto('/?rows=hosts&last=1h');
  const host = region(page).locator('tbody tr').first().getByRole('link');
  const name = (await host.textContent())!.trim();
  await host.click();
  await expect(page).toHaveURL(new RegExp(`host=${name}.*last=1h|last=1h.*host=${name}`));
  await expect(page.getByRole('button', { name: new RegExp(`^Host: ${name}`) })).toBeVisible();
  const endpoint = region(page).locator('tbody tr').first().getByRole('link');
  await expect(endpoint).toBeVisible();
  const title = (await endpoint.textContent())!.trim();
  await endpoint.click();
  await expect(page).toHaveURL(/\/endpoint\?/);
  await expect(page).toHaveURL(new RegExp(`host=${name}`));
  await expect(page.getByRole('heading', { level: 1 })).toHaveText(title);
  await page.goBack();
  await page.goBack();
  await expect(page).toHaveURL(/rows=hosts/);
});

test('what a request is made of is read per request and per call', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('link', { name: 'POST /calls/:id/berth' }).first().click();
  const parts = page.getByRole('table').filter({ hasText: 'booked/request' });
  await expect(parts.getByRole('row').filter({ hasText: 'from manifest' })).toBeVisible();
  await page.getByRole('link', { name: 'per call', exact: true }).click();
  await expect(page).toHaveURL(/per=call/);
  await expect(parts).toHaveCount(0);
  await page.getByRole('link', { name: 'per request', exact: true }).click();
  await expect(parts).toHaveCount(1);
  // The reading says which of both it is: many calls, none of them slow.
  await expect(page.getByRole('complementary', { name: 'Reading' })).toContainText('None is slow by itself');
});
