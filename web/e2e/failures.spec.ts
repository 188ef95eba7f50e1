import { expect, test, type Page } from '@playwright/test';
import { BESIDE } from './servers';

const reading = (page: Page) => page.getByRole('complementary', { name: 'Reading' });
const NOW = (): number => Date.now() - 120_000;
const text = (key: string, stringValue: string): object => ({ key, value: { stringValue } });

/** A request of the gateway that asks `stowage`, which throws unless told otherwise. */
function requestOf(n: number, fails: boolean, release = '1.4'): object[] {
  const begin = NOW() + n * 20;
  const at = (ms: number): string => `${begin + ms}000000`;
  const traceId = `fa11${n.toString(16).padStart(28, '0')}`;
  const id = (part: number): string => (0xfa1100 + n * 10 + part).toString(16).padStart(16, '0');
  const http = (route: string, status: number): object[] => [
    text('http.request.method', 'POST'),
    text('http.route', route),
    { key: 'http.response.status_code', value: { intValue: String(status) } }
  ];
  const of = (service: string, span: object): object => ({
    resource: {
      attributes: [
        text('service.name', service),
        text('host.name', 'quay-9'),
        text('service.version', release)
      ]
    },
    scopeSpans: [{ spans: [{ traceId, name: 'POST', ...span }] }]
  });
  const message = `crane ${n} carries <b>${20 + n}</b> of 40 tonnes`;
  const stack = `CraneOverloaded: ${message}\n    at lift (/srv/stowage/crane.ts:31:11)\n    at next (/srv/node_modules/router/index.js:3:1)\n    at plan (/srv/stowage/plan.ts:9:3)\nCaused by: RangeError: 41 is over 40\n    at weigh (/srv/stowage/scale.ts:7:5)`;
  const status = fails ? { code: 2 } : {};
  return [
    of('slipway', {
      spanId: id(1),
      kind: 2,
      startTimeUnixNano: at(0),
      endTimeUnixNano: at(60),
      status,
      attributes: [
        ...http('/holds/:id/load', fails ? 502 : 200),
        text('user.id', `mate-${n % 4}`),
        text('cargo', fails ? 'ore' : 'grain')
      ]
    }),
    of('slipway', {
      spanId: id(2),
      parentSpanId: id(1),
      kind: 3,
      startTimeUnixNano: at(5),
      endTimeUnixNano: at(55),
      status,
      attributes: [...http('/cranes', fails ? 500 : 200), text('server.address', 'stowage')]
    }),
    of('stowage', {
      spanId: id(3),
      parentSpanId: id(2),
      kind: 2,
      startTimeUnixNano: at(10),
      endTimeUnixNano: at(50),
      status,
      attributes: http('/cranes', fails ? 500 : 200),
      events: fails
        ? [
            {
              name: 'exception',
              timeUnixNano: at(40),
              attributes: [
                text('exception.type', 'CraneOverloaded'),
                text('exception.message', message),
                text('exception.stacktrace', stack)
              ]
            }
          ]
        : []
    })
  ];
}

/** What comes from outside is text. */
const NAME = 'CraneOverloaded: crane ? carries <b>?</b> of ? tonnes';

test.use({ baseURL: BESIDE.url });

test('from all failures to one: where it starts, its line, what sets it apart, what came before, and its requests', async ({
  page
}) => {
  test.setTimeout(120_000);
  const resourceSpans = Array.from({ length: 40 }, (_, n) => requestOf(n, n % 4 === 0)).flat();
  const sent = await page.request.post('/v1/traces', { data: { resourceSpans } });
  expect(sent.status()).toBe(200);

  const table = page.getByRole('table', { name: 'Failures' });
  const failure = table.getByRole('link', { name: NAME });
  await expect(async () => {
    await page.goto('/failures?service=stowage');
    await expect(failure).toBeVisible({ timeout: 2000 });
  }).toPass({ timeout: 30_000 });
  await page.goto('/failures');
  await expect(reading(page)).toContainText(/failures of \d+ kinds?/);
  await failure.click();

  await expect(page.getByRole('heading', { level: 1 })).toHaveText(NAME);
  await expect(page.getByRole('main')).toContainText('seen 10 times in 10 requests of 1 user or session');
  await expect(reading(page)).toContainText(
    'It starts in stowage; slipway answers 502 POST /holds/:id/load. Mend it in stowage.'
  );
  await expect(
    page.getByRole('img', { name: /Starts in stowage as CraneOverloaded, 10 times; ends in slipway/ })
  ).toBeVisible();
  const thrown = page.getByRole('region', { name: 'Where it is thrown' });
  await expect(thrown).toContainText('/srv/stowage/scale.ts:7');
  await expect(thrown).toContainText('1 frame of the runtime and of dependencies');
  await expect(thrown).toContainText('Caused by');
  await expect(thrown.locator('b', { hasText: '<b>' })).toHaveCount(0);
  await expect(reading(page)).toContainText('RangeError');
  // What occurs with it only passes it on, and leads back.
  await page
    .getByRole('region', { name: 'Failures that occur with it' })
    .getByRole('link', { name: '500 from stowage' })
    .click();
  await expect(page.getByRole('main')).toContainText('It does not start here.');
  await expect(page.getByRole('table', { name: 'What sets these requests apart' })).toContainText(
    'cargo: ore'
  );
  await page.getByRole('link', { name: NAME }).first().click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('CraneOverloaded');

  // The request, at the span that tells of it, with its stack.
  const step = page.getByRole('table', { name: 'What happened before' });
  await expect(step).toContainText('slipway: POST /holds/:id/load');
  await page.getByRole('link', { name: 'Open this request' }).click();
  await expect(page).toHaveURL(/row=/);
  await expect(reading(page)).toContainText('Caused by');
  await page.goBack();

  // Marked as fixed it is listed no more, until it comes back; undone, it is open.
  await page.getByRole('button', { name: 'Mark as fixed…' }).click();
  await page.getByLabel('fixed in').selectOption('the next release');
  await page.getByRole('button', { name: 'Mark it' }).click();
  await expect(page.getByRole('main')).toContainText('marked as fixed in the next release');
  await page.getByRole('link', { name: 'All failures' }).click();
  await expect(table.getByRole('link').first()).toBeVisible();
  await expect(failure).toBeHidden();
  await page.getByRole('link', { name: 'fixed', exact: true }).click();
  await failure.click();
  // A release that came since and shows it brings it back.
  const again = await page.request.post('/v1/traces', {
    data: { resourceSpans: requestOf(9000, true, '1.5') }
  });
  expect(again.status()).toBe(200);
  await expect(page.getByRole('main')).toContainText('back since 1.5', { timeout: 30_000 });
  await page.getByRole('button', { name: 'Open again' }).click();
  await expect(page.getByRole('main')).not.toContainText('marked as fixed');
  await page.getByRole('button', { name: 'Ignore…' }).click();
  await page.getByLabel(/until it happens so many times more/).fill('3');
  await page.getByRole('button', { name: 'Ignore it' }).click();
  await expect(page.getByRole('main')).toContainText('· ignored');
  await page.getByRole('button', { name: 'Undo' }).first().click();
  await expect(page.getByRole('main')).not.toContainText('· ignored');

  // Its requests, by a condition that can be taken off.
  await page.getByRole('link', { name: 'Its requests' }).click();
  await expect(page.getByText('10 requests').first()).toBeVisible();
  await expect(page.getByText(/failure CraneOverloaded/)).toBeVisible();
});

test('says in words that nothing failed, and that a failure is not here', async ({ page }) => {
  await page.goto('/failures?service=nobody');
  await expect(page.getByRole('main')).toContainText('No failures in this time range');
  await page.goto('/failures/999999');
  await expect(page.getByText('This group of failures is not here.')).toBeVisible();
  await page.goto('/failures/none');
  await expect(page.getByText('This is no group of failures.')).toBeVisible();
});
