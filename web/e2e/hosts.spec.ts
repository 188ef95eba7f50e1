import { spawn } from 'node:child_process';
import path from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { BESIDE, EMPTY } from './servers';

const reading = (page: Page) => page.getByRole('complementary', { name: 'Reading' });
const strips = (page: Page) => page.getByRole('table', { name: 'Counters over time' });

test('requests of one host are slow: its counters, the neighbour, its CPU, the requests that waited', async ({
  page
}) => {
  await page.goto('/requests?service=manifests');
  await page.getByRole('link', { name: 'Hosts', exact: true }).click();
  await expect(reading(page)).toContainText(/quay-4 is the odd one: its CPU stood at \d\d\s?% for/);
  await expect(strips(page).getByRole('row', { name: /^quay-4 manifests/ })).toHaveAttribute(
    'aria-current',
    'true'
  );
  await expect(
    strips(page).getByRole('img', { name: /^CPU of quay-4: up to \d\d\s?%, clear of the others/ })
  ).toBeVisible();

  const processes = page.getByRole('table', { name: 'Processes of quay-4' });
  await expect(processes.getByRole('row').nth(1)).toContainText('tide-replay');
  await expect(processes.getByRole('row').nth(1)).toContainText('ops');
  await expect(
    processes.getByRole('img', { name: /user [\d.]+ %, system [\d.]+ %, waits/ }).first()
  ).toBeVisible();
  await expect(processes.getByRole('row', { name: /manifests 7\.2/ }).first()).toBeVisible();

  await expect(reading(page)).toContainText('A neighbour takes the CPU');
  await expect(reading(page)).toContainText(
    /tide-replay \(pid 8810, of ops\) used 1\.\d\d of 2 cores of quay-4 for .*, and serves no requests\. manifests waited for a core for \d\d\s?% of that time\. Requests of manifests took \d\.\d times as long as on other hosts meanwhile/
  );
  await reading(page).getByRole('link', { name: 'Its requests meanwhile' }).first().click();
  await expect(page).toHaveURL(/host=quay-4/);
  await expect(page).toHaveURL(/service=manifests/);
  const requests = page.getByRole('table', { name: 'Requests', exact: true });
  await requests.getByRole('link').first().click();
  // One of them says itself what its host did meanwhile.
  await expect(page.getByRole('region', { name: 'Meanwhile' })).toContainText(
    /manifests on quay-4: (?:.*\. )?\d\d\s?% of the cores in use/
  );
  await page
    .getByRole('region', { name: 'Meanwhile' })
    .getByRole('link', { name: 'Hosts around it' })
    .first()
    .click();
  await expect(page).toHaveURL(/\/hosts\?.*one=quay-4/);
  await page.goBack();
  await page.goBack();
  await page.goBack();

  await reading(page).getByRole('link', { name: 'About this rule' }).first().click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('A neighbour takes the CPU');
});

test('rows are hosts, services or processes, chosen by keys; a host that is chosen is told below', async ({
  page
}) => {
  await page.goto('/hosts');
  await strips(page).getByRole('link', { name: 'quay-2' }).focus();
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/one=quay-2/);
  await expect(page.getByRole('heading', { name: /^quay-2: what used its CPU/ })).toBeVisible();
  await page.getByRole('link', { name: 'services', exact: true }).click();
  await expect(strips(page).getByRole('rowheader', { name: /^berths/ })).toContainText('quay-2');
  await page.getByRole('link', { name: 'processes', exact: true }).click();
  await expect(reading(page)).toContainText(/tide-replay \(quay-4 · pid 8810\) is the odd one/);
});

test('a used-up pool: found, how many wait, who waited, and the request that shows it', async ({ page }) => {
  await page.goto('/hosts?one=quay-3');
  await expect(reading(page)).toContainText(
    /manifests on quay-3: 4 of 4 in use, up to \d wait, \d+\s?ms each, for/
  );
  const pools = page.getByRole('table', { name: 'Pools of quay-3' });
  await expect(pools.getByRole('row', { name: /manifests connections manifests/ })).toContainText('4');
  await page.getByRole('main').getByRole('link', { name: 'GET /manifests/:id' }).click();
  await expect(page).toHaveURL(/finding=waits-for-connection/);
  await page.getByRole('table', { name: 'Requests', exact: true }).getByRole('link').first().click();
  await expect(reading(page)).toContainText(
    /The request waited .* for a free connection.* The pool holds at most 4 connections/
  );
  await expect(page.getByRole('region', { name: 'Meanwhile' })).toContainText(
    /manifests on quay-3.*waiting for a connection/
  );
});

test('how requests of each host and service fare, and a finding that is recorded at once or says why not', async ({
  page
}) => {
  await page.goto('/hosts');
  await expect(strips(page).getByRole('columnheader', { name: /^requests/ })).toBeVisible();
  await expect(strips(page).getByRole('row', { name: /^quay-2/ })).toContainText(/[\d.]+\/min/);
  await expect(reading(page)).toContainText(/requests of quay-4/);
  await page.getByRole('link', { name: 'services', exact: true }).click();
  await expect(strips(page).getByRole('row', { name: /^berths/ })).toContainText(/[\d.]+\/min/);

  await page.goto('/hosts?one=quay-4');
  const record = reading(page).getByRole('button', { name: 'Record it now' }).first();
  await record.click();
  await expect(reading(page)).toContainText(/No inspector of .* on quay-4 answers/);
});

test('counters lie under a request, an endpoint, a profile, a failure and both sides, on their axis', async ({
  page
}) => {
  const below = page.getByRole('region', { name: 'Counters below' });
  await page.goto('/endpoint?service=berths&endpoint=POST+%2Fcalls%2F%3Aid%2Fberth');
  await below.getByRole('button', { name: 'Counters on this axis' }).click();
  await expect(below.getByRole('img', { name: /^CPU of quay-2: up to/ })).toBeVisible();
  // Whoever wants them once wants them elsewhere too.
  await page.goto('/requests?service=manifests');
  await page.getByRole('table', { name: 'Requests', exact: true }).getByRole('link').first().click();
  await expect(below.getByRole('img', { name: /^CPU of quay-\d: up to/ }).first()).toBeVisible();
  await page.goto('/profiles');
  await page
    .getByRole('main')
    .getByRole('link', { name: /berths/ })
    .first()
    .click();
  await expect(below.getByRole('img', { name: /of berths on quay-2: up to/ }).first()).toBeVisible();
  await page.goto('/failures');
  await page.getByRole('table', { name: 'Failures' }).getByRole('link').first().click();
  await expect(below.getByRole('img', { name: /^CPU of quay-\d: up to/ }).first()).toBeVisible();
  await page.goto('/compare?service=berths');
  await page.getByRole('link', { name: 'berths 7.2 → 7.3' }).click();
  await expect(page.getByRole('region', { name: /^Counters below, side/ })).toHaveCount(2);
  await page
    .getByRole('region', { name: /^Counters below, side/ })
    .first()
    .getByRole('button', { name: 'Without counters' })
    .click();
  await expect(page.getByRole('img', { name: /^CPU of quay-2/ })).toHaveCount(0);
});

test('a slow host says by its counters in what it stands clear of the others', async ({ page }) => {
  await page.goto('/endpoint?service=manifests&endpoint=POST+%2Fmanifests');
  await expect(page.getByTestId('odd-by-counters').first()).toContainText(
    /By the counters too, quay-4 is the odd one: its CPU stood at \d\d\s?%/
  );
  await page.getByTestId('odd-by-counters').first().getByRole('link', { name: 'Its counters' }).click();
  await expect(page).toHaveURL(/\/hosts\?.*one=quay-4/);
});

test('any counter of a host is drawn on the same time', async ({ page }) => {
  await page.goto('/hosts?one=quay-4');
  await page.getByRole('combobox', { name: /^quay-4: any counter/ }).selectOption('system.network.io');
  await expect(page).toHaveURL(/counter=system\.network\.io/);
  const lines = page.getByRole('table', { name: 'Lines of system.network.io' });
  await expect(lines.getByRole('row')).toHaveCount(2);
  await expect(lines.getByRole('img', { name: /^transmit: up to [\d.]+ kB\/s/ })).toBeVisible();
  await page.reload();
  await expect(lines.getByRole('row')).toHaveCount(2);
});

test('without counters it says what sends them', async ({ page }) => {
  await page.goto(`${EMPTY.url}/hosts`);
  await expect(page.getByRole('main')).toContainText('No counters in this time range');
  await expect(page.getByRole('main')).toContainText('npx tromix host');
});

test('this machine is told by tromix host, and what is turned away is named', async ({ page }) => {
  test.setTimeout(60_000);
  const sender = spawn(
    process.execPath,
    [
      'cli/bin/tromix.mjs',
      'host',
      '--name',
      'pier-7',
      '--to',
      BESIDE.url,
      '--every',
      '1',
      '--processes',
      '5'
    ],
    { cwd: path.resolve(import.meta.dirname, '../..') }
  );
  try {
    await expect(async () => {
      await page.goto(`${BESIDE.url}/hosts?one=pier-7`);
      await expect(strips(page).getByRole('img', { name: /^CPU of pier-7: up to/ })).toBeVisible({
        timeout: 1000
      });
    }).toPass({ timeout: 40_000 });
    const processes = page.getByRole('table', { name: 'Processes of pier-7' });
    await expect(processes.getByRole('row').nth(1)).toContainText(/%/);
    await expect(reading(page)).toContainText('File systems');
  } finally {
    sender.kill();
  }
  const dataPoints = Array.from({ length: 1100 }, (_, i) => ({
    timeUnixNano: `${Date.now()}000000`,
    asDouble: 1,
    attributes: [{ key: 'request', value: { stringValue: `r${i}` } }]
  }));
  const answer = await page.request.post(`${BESIDE.url}/v1/metrics`, {
    data: {
      resourceMetrics: [
        {
          resource: { attributes: [{ key: 'host.name', value: { stringValue: 'pier-8' } }] },
          scopeMetrics: [{ metrics: [{ name: 'of.each.request', gauge: { dataPoints } }] }]
        }
      ]
    }
  });
  expect(await answer.json()).toMatchObject({ partialSuccess: { rejectedDataPoints: '100' } });
  await page.goto(`${BESIDE.url}/hosts`);
  await expect(reading(page)).toContainText('100 points of of.each.request');
  await expect(reading(page)).toContainText('an attribute of it never repeats');
});
