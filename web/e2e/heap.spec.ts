import { readFileSync } from 'node:fs';
import { expect, test, type Page } from '@playwright/test';
import { DEMO } from './servers';

test.use({ baseURL: DEMO.url });

const hprof = (): Buffer => readFileSync(new URL('../../core/fixtures/heap/tides.hprof.gz', import.meta.url));

async function openDemo(page: Page): Promise<void> {
  await page.goto('/heap');
  await page.getByRole('table', { name: 'Heap dumps' }).getByRole('link').first().click();
  await expect(page.getByRole('group', { name: /What holds the heap/ })).toBeVisible();
}
async function withDump(
  page: Page,
  data: Buffer,
  query: string,
  work: (id: string) => Promise<void>
): Promise<void> {
  const answer = await page.request.post(`/api/evidence?${query}`, {
    data,
    headers: { 'content-type': 'application/octet-stream' }
  });
  expect(answer.status()).toBe(201);
  const { id } = (await answer.json()) as { id: string };
  try {
    await work(id);
  } finally {
    await page.request.delete(`/api/evidence/${id}`);
  }
}

test('from two dumps to what grew, what was added, and the field that keeps it', async ({ page }) => {
  await openDemo(page);
  const reading = page.getByRole('complementary', { name: 'Reading' });
  await expect(reading).toContainText(/TideCache\.windows keeps 5\d\s% of the heap/);
  await expect(reading).toContainText('matched by object id');
  await expect(reading).toContainText(/of TideWindow there are 6\s204 where there were 1\s110/);
  await reading.getByRole('link', { name: 'Show what was added' }).click();
  await expect(page).toHaveURL(/class=TideWindow&.*added=1|added=1.*class=TideWindow/);
  await expect(page.getByText(/5\s094 objects/)).toBeVisible();
  await page.getByRole('table', { name: 'Objects' }).getByRole('link').first().click();
  const path = page.getByRole('list', { name: 'The path from a root' });
  await expect(path.getByRole('button', { name: /TideCache/ })).toBeVisible();
  await expect(path.getByRole('button', { name: /by windows: Map/ })).toBeVisible();
  // The program's own step is where a developer can change something: its fields are a click away.
  await path.getByRole('button', { name: /TideCache/ }).click();
  const object = page.getByRole('region', { name: 'Selected object' });
  await expect(object.getByRole('row').filter({ hasText: 'windows' })).toContainText('Map');
});

test('classes, kinds, roots, strings and objects are looked through; all stands in the address', async ({
  page
}) => {
  await openDemo(page);
  const classes = page.getByRole('table', { name: 'Classes' });
  await expect(classes.getByRole('row').filter({ hasText: 'TideWindow' })).toContainText(/\+5\s094/);
  await page.getByLabel('Classes like').fill('tide');
  await page.getByLabel('Classes like').press('Enter');
  await expect(page).toHaveURL(/class=tide/);
  await expect(classes.getByRole('row')).toHaveCount(3);
  await page.getByRole('link', { name: 'strings', exact: true }).click();
  await expect(page.getByRole('table', { name: 'Strings' }).getByText('Ferry Stairs')).toBeVisible();
  await page.getByRole('link', { name: 'roots', exact: true }).click();
  await expect(page.getByRole('table', { name: 'Objects' }).getByRole('link').first()).toBeVisible();
  await page.getByRole('link', { name: 'growth', exact: true }).click();
  await expect(page.getByRole('region', { name: 'Where it grew' })).toContainText('TideWindow × ');
  await page.goBack();
  await expect(page).toHaveURL(/show=roots/);
  await page.getByRole('button', { name: /Against: / }).click();
  await page.getByRole('menuitemradio', { name: 'nothing earlier' }).click();
  await expect(page.getByRole('link', { name: 'growth', exact: true })).toHaveCount(0);
});

test('a dump of a JVM is indexed, and its objects show fields and values', async ({ page }) => {
  await withDump(page, hprof(), 'service=tides-java&pid=77', async (id) => {
    await page.goto(`/heap/${id}`);
    await expect(page.getByRole('complementary', { name: 'Reading' })).toContainText(
      /TideCache\.windows keeps 4\d\s% of the heap/
    );
    await page.goto(`/heap/${id}?show=objects&class=quillhaven.tides.Tides$TideWindow`);
    await page.getByRole('table', { name: 'Objects' }).getByRole('link').first().click();
    const object = page.getByRole('region', { name: 'Selected object' });
    await expect(object.getByRole('row').filter({ hasText: 'begun' })).toContainText('17000000');
    await object.getByRole('button', { name: 'String', exact: true }).click();
    await expect(object).toContainText('Northgate');
    await page.goto(`/heap/${id}?show=packages`);
    await expect(page.getByRole('table', { name: 'Packages' }).getByText('quillhaven.tides')).toBeVisible();
  });
});

test('a dump that is no dump after its head is one worded error, and may be tried again', async ({
  page
}) => {
  await withDump(
    page,
    Buffer.concat([Buffer.from('{"snapshot":{"meta":{"node_fields":[]'), Buffer.alloc(10)]),
    'service=cut',
    async (id) => {
      await page.goto(`/heap/${id}`);
      await expect(page.getByRole('heading', { name: 'This dump cannot be shown' })).toBeVisible();
      await expect(page.getByRole('alert')).toContainText(/snapshot/);
      await page.getByRole('button', { name: 'Try again' }).click();
      await expect(page.getByRole('heading', { name: 'This dump cannot be shown' })).toBeVisible();
    }
  );
  const refused = await page.request.post(`/api/heap/${'0'.repeat(64)}`, { data: { ask: 'classes' } });
  expect(refused.status()).toBe(404);
});

test('memory sent by OTLP metrics is drawn on the time rail', async ({ page }) => {
  const text = (key: string, stringValue: string): object => ({ key, value: { stringValue } });
  const points = Array.from({ length: 12 }, (_, i) => ({
    timeUnixNano: `${Date.now() - (14 - i) * 60_000}000000`,
    asInt: String(100e6 + i * 25e6)
  }));
  const answer = await page.request.post('/v1/metrics', {
    data: {
      resourceMetrics: [
        {
          resource: { attributes: [text('service.name', 'moorings'), text('host.name', 'slip-9')] },
          scopeMetrics: [{ metrics: [{ name: 'process.memory.usage', sum: { dataPoints: points } }] }]
        }
      ]
    }
  });
  expect(answer.status()).toBe(200);
  await page.goto('/heap?host=slip-9&last=30m');
  await expect(page.getByRole('application', { name: /memory up to 37\d MB/ })).toBeVisible();
});

test('a class leads to the functions that bear its name where allocations were recorded too', async ({
  page
}) => {
  await openDemo(page);
  const row = page.getByRole('table', { name: 'Classes' }).getByRole('row').filter({ hasText: 'TideWindow' });
  await row.first().click({ button: 'right' });
  await page.getByRole('menuitem', { name: 'Functions that make it' }).click();
  await expect(page).toHaveURL(/profiles\/[0-9a-f]{64}\?.*find=TideWindow/);
  await expect(page.getByLabel('Search functions')).toHaveValue('TideWindow');
  await expect(page.getByRole('complementary')).toContainText(/allocated/);
});
