import { readFileSync } from 'node:fs';
import path from 'node:path';
import { gunzipSync } from 'node:zlib';
import { expect, test, type Page } from '@playwright/test';
import { BESIDE } from './servers';

const reading = (page: Page) => page.getByRole('complementary', { name: 'Reading' });
/** What real processes left behind: see recordings/crashes. */
const LEFT = JSON.parse(
  gunzipSync(
    readFileSync(path.resolve(import.meta.dirname, '../../recordings/crashes/crashes.json.gz'))
  ).toString()
) as Record<string, { stderr: string; report?: string }>;

test('overview, failure, where it starts, its line and owners, a request at the span, marked as fixed', async ({
  page
}) => {
  test.setTimeout(120_000);
  await page.goto('/?service=pilots');
  const here = page.getByRole('region', { name: 'What fails here' });
  await here.getByRole('link', { name: /WatchUnknown/ }).click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('WatchUnknown');
  await expect(reading(page)).toContainText('It starts in pilots');
  await expect(reading(page)).toContainText('Fails since 7.5');
  await expect(reading(page)).toContainText(/under 7\.4 it was none of \d+/);
  const thrown = page.getByRole('region', { name: 'Where it is thrown' });
  await expect(thrown.getByTestId('source')).toContainText('throw new WatchUnknown');
  await expect(thrown).toContainText('Owned by @harbour-office, @watch.');
  await page.getByRole('link', { name: 'Open this request' }).click();
  await expect(page.getByTestId('failed-at')).toContainText(
    /It failed of WatchUnknown.* in name watch of pilots/
  );
  await expect(page.getByRole('img', { name: /^Ledger: .*failed in Own code: WatchUnknown/ })).toBeVisible();
  await page.goBack();

  await page.getByRole('button', { name: 'Mark as fixed…' }).click();
  await page.getByLabel('fixed in').selectOption('7.3');
  await page.getByRole('button', { name: 'Mark it' }).click();
  // What happened before it was marked is no return.
  await expect(page.getByRole('main')).toContainText('marked as fixed in 7.3');
  await page.getByRole('button', { name: 'Undo' }).first().click();
  await expect(page.getByRole('main')).not.toContainText('marked as fixed');
});

test('a process that ran out of memory: what ended it, whether it was the program, what filled its heap', async ({
  page
}) => {
  test.setTimeout(90_000);
  await page.goto('/crashes');
  const table = page.getByRole('table', { name: 'Crashes' });
  await expect(reading(page)).toContainText(/\d+ crashes of \d kinds/);
  await expect(reading(page)).toContainText('manifests is started again and again');
  await table.getByRole('link', { name: /Allocation failed/ }).click();
  await expect(reading(page)).toContainText(
    /It ran out of memory: its heap held [\d.]+ MB of at most [\d.]+ MB/
  );
  await expect(reading(page)).toContainText(/Another process of tides serves on quay-3 [\d.]+\s?m?s later/);
  await expect(reading(page)).toContainText('Other services on quay-3 went on serving');
  await expect(page.getByRole('region', { name: 'What it wrote before' })).toContainText('gauges were read');
  await expect(page.getByRole('table', { name: 'Requests a minute around it' })).toContainText(
    'tides on quay-3'
  );
  await reading(page)
    .getByRole('link', { name: /^heap dump/ })
    .first()
    .click();
  await expect(page).toHaveURL(/\/heap\//);
});

test('a recursion is named by the functions that call each other; the crash is a failure too', async ({
  page
}) => {
  await page.goto('/crashes');
  await page
    .getByRole('table', { name: 'Crashes' })
    .getByRole('link', { name: /RangeError/ })
    .first()
    .click();
  await expect(reading(page)).toContainText(/lastAgentOf → agentBehind|agentBehind → lastAgentOf/);
  await expect(page.getByTestId('source')).toContainText('lastAgentOf(consignee)');
  await page.goto('/failures?kind=crash');
  await page
    .getByRole('table', { name: 'Failures' })
    .getByRole('link', { name: /^RangeError/ })
    .click();
  await page.getByRole('link', { name: 'Open this crash' }).click();
  await expect(page).toHaveURL(/\/crashes\/[0-9a-f]{64}/);
});

test.describe('beside running services', () => {
  test.use({ baseURL: BESIDE.url });

  test('a crash of a runtime that sends no traces; its stacks open in threads; what is cut off is refused in words', async ({
    page
  }) => {
    test.setTimeout(60_000);
    const send = (body: string, query = '') =>
      page.request.post(`/api/evidence?service=cranes&host=quay-9${query}`, {
        data: Buffer.from(body),
        headers: { 'content-type': 'application/octet-stream' }
      });
    const text = LEFT['go-nil'].stderr.replace('nil pointer', '<img src=x onerror=alert(1)> pointer');
    expect((await send(text, '&pid=77')).status()).toBe(201);
    const cut = await send(LEFT['node-throw'].report!.slice(0, 3000));
    expect(cut.status()).toBe(400);
    expect(await cut.text()).toMatch(/Expected JSON, but it ends or breaks off/);
    await page.goto('/crashes');
    await page
      .getByRole('table', { name: 'Crashes' })
      .getByRole('link', { name: /invalid memory address/ })
      .click();
    await expect(page.getByRole('heading', { level: 1 })).toContainText('<img src=x');
    await expect(page.locator('main img[src="x"]')).toHaveCount(0);
    await expect(reading(page)).toContainText('that it is cranes is what its sender says');
    await expect(reading(page)).toContainText('whether it was the program or the place is not told');
    await page.getByRole('link', { name: 'Its stacks' }).click();
    await expect(page.getByRole('main')).toContainText('main.pull', { timeout: 20_000 });
  });

  test('log records: searched, narrowed, read whole, from a record to its span and back; beside the timeline', async ({
    page
  }) => {
    test.setTimeout(90_000);
    const traceId = 'f1e1d'.padEnd(32, '0');
    const spanId = 'f1e1d'.padEnd(16, '1');
    const at = (ms: number): string => `${Date.now() - 60_000 + ms}000000`;
    const attribute = (key: string, stringValue: string): object => ({ key, value: { stringValue } });
    const resource = {
      attributes: [attribute('service.name', 'winches'), attribute('host.name', 'quay-8')]
    };
    await page.request.post('/v1/traces', {
      data: {
        resourceSpans: [
          {
            resource,
            scopeSpans: [
              {
                spans: [
                  {
                    traceId,
                    spanId,
                    name: 'POST',
                    kind: 2,
                    startTimeUnixNano: at(0),
                    endTimeUnixNano: at(80),
                    attributes: [attribute('http.request.method', 'POST'), attribute('http.route', '/ropes')]
                  }
                ]
              }
            ]
          }
        ]
      }
    });
    const record = (ms: number, severityNumber: number, body: string, more: object = {}): object => ({
      timeUnixNano: at(ms),
      severityNumber,
      body: { stringValue: body },
      ...more
    });
    const sent = await page.request.post('/v1/logs', {
      data: {
        resourceLogs: [
          {
            resource,
            scopeLogs: [
              {
                logRecords: [
                  record(10, 9, 'rope 4 runs out', {
                    traceId,
                    spanId,
                    attributes: [attribute('drum', 'port side')]
                  }),
                  record(30, 17, 'rope 4 is <b>torn</b>', { traceId, spanId }),
                  record(50, 13, 'the winch house is cold')
                ]
              }
            ]
          }
        ]
      }
    });
    expect(sent.status()).toBe(200);
    const table = page.getByRole('table', { name: 'Log records' });
    await expect(async () => {
      await page.goto('/logs?service=winches');
      await expect(table.getByRole('link', { name: /rope 4 runs out/ })).toBeVisible({ timeout: 1000 });
    }).toPass({ timeout: 30_000 });
    await expect(table.getByRole('link')).toHaveCount(3);
    await page.getByRole('searchbox').fill('PORT SIDE');
    await expect(table.getByRole('link')).toHaveCount(1);
    await page.getByRole('searchbox').fill('');
    await page.getByRole('link', { name: 'warn +' }).click();
    await expect(table.getByRole('link')).toHaveCount(2);
    await page.getByRole('link', { name: 'no trace', exact: true }).click();
    await expect(table.getByRole('link')).toHaveCount(1);
    await page.goto('/logs?service=winches');
    await table.getByRole('link', { name: /is <b>torn/ }).click();
    await expect(reading(page).getByRole('region', { name: 'Record' })).toContainText(
      'rope 4 is <b>torn</b>'
    );
    await expect(async () => {
      await page.reload();
      await expect(reading(page).getByRole('link', { name: 'The span it was written in' })).toBeVisible({
        timeout: 1500
      });
    }).toPass({ timeout: 30_000 });
    await reading(page).getByRole('link', { name: 'The span it was written in' }).click();
    const log = page.getByRole('region', { name: 'Log', exact: true });
    const rows = log.getByRole('listbox').getByRole('option');
    await expect(rows).toHaveCount(2);
    await log.getByRole('searchbox').fill('torn');
    await expect(rows).toHaveCount(1);
    await expect(page).toHaveURL(/text=torn/);
    await log.getByRole('combobox', { name: /^severity/ }).selectOption('fatal');
    await expect(log).toContainText('No record is like that.');
    // The error in the log is a failure of its request.
    await page.goto('/failures?service=winches&kind=log');
    await page
      .getByRole('table', { name: 'Failures' })
      .getByRole('link', { name: /rope \? is/ })
      .click();
    await expect(page.getByRole('main')).toContainText('seen 1 time in 1 request');
  });

  test('groups that a person knows to be one are merged, parted, and told in a ticket', async ({
    page,
    context
  }) => {
    await context.grantPermissions(['clipboard-read', 'clipboard-write']);
    const record = (body: string): object => ({
      timeUnixNano: `${Date.now() - 30_000}000000`,
      severityNumber: 17,
      body: { stringValue: body }
    });
    await page.request.post('/v1/logs', {
      data: {
        resourceLogs: [
          {
            resource: { attributes: [{ key: 'service.name', value: { stringValue: 'lamps' } }] },
            scopeLogs: [{ logRecords: [record('lamp is out'), record('no light')] }]
          }
        ]
      }
    });
    await expect(async () => {
      await page.goto('/failures?service=lamps');
      await expect(
        page.getByRole('table', { name: 'Failures' }).getByRole('link', { name: /^lamp is out/ })
      ).toBeVisible({ timeout: 1500 });
    }).toPass({ timeout: 30_000 });
    await page
      .getByRole('table', { name: 'Failures' })
      .getByRole('link', { name: /^lamp is out/ })
      .click();
    await page
      .getByLabel('Another that is the same')
      .selectOption({ label: 'no light · lamps: outside of requests' });
    await page.getByRole('button', { name: 'Merge' }).click();
    await expect(page.getByRole('main')).toContainText('seen 2 times');
    await expect(reading(page)).toContainText('with no light');
    await page.getByRole('button', { name: 'Export' }).first().click();
    await page.getByRole('menuitem', { name: 'Text for a ticket, copied' }).click();
    await expect
      .poll(() => page.evaluate(() => navigator.clipboard.readText()))
      .toMatch(/^# lamp is out\n\nlamps: outside of requests\. 2 times in 0 requests/);
    await page.getByRole('button', { name: 'Part' }).click();
    await expect(page.getByRole('main')).toContainText('seen 1 time');
  });
});
