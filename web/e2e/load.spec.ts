import { spawn } from 'node:child_process';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { expect, test, type Page } from '@playwright/test';
import { BESIDE, DEMO, EMPTY } from './servers';

/** A server that answers after 20 ms, and knows what it was asked. */
let stub: http.Server;
let address: string;
let asked: { method: string; path: string; body: string; traceparent: string }[] = [];

test.beforeAll(async () => {
  stub = http.createServer((request, response) => {
    let body = '';
    request.on('data', (part: Buffer) => (body += part.toString()));
    request.on('end', () => {
      const { method = '', url = '', headers } = request;
      asked.push({ method, path: url, body, traceparent: String(headers.traceparent) });
      setTimeout(() => response.writeHead(url.startsWith('/fails') ? 500 : 200).end('{}'), 20);
    });
  });
  await new Promise<void>((resolve) => stub.listen(0, '127.0.0.1', resolve));
  address = `http://127.0.0.1:${(stub.address() as AddressInfo).port}`;
});
test.afterAll(() => stub.close());
test.beforeEach(() => (asked = []));

const form = (page: Page) => page.getByRole('form', { name: 'New load run' });
const fill = async (page: Page, label: string, value: string): Promise<void> =>
  form(page).getByLabel(label, { exact: true }).fill(value);

test.describe('a load run', () => {
  test.use({ baseURL: EMPTY.url });

  test('needs an address, users, ramp-up and loops, is watched, and becomes evidence', async ({ page }) => {
    await page.goto('/load');
    await fill(page, 'address', `${address}/board`);
    await fill(page, 'users', '4');
    await fill(page, 'ramp-up, s', '1');
    await fill(page, 'loops', '25');
    await expect(form(page)).toContainText('100 requests, a user joins every 250 ms.');
    await form(page).getByRole('button', { name: 'Start the run' }).click();
    await expect(page.getByText('running for')).toBeVisible();
    await expect(page.getByRole('link', { name: 'Repeat it' })).toBeVisible({ timeout: 60_000 });
    const main = page.getByRole('main');
    await expect(main.locator('dl')).toContainText(/samples\s*100/);
    await expect(page.getByRole('complementary')).toContainText('100 requests to GET /board');
    await expect(page.getByRole('img', { name: /100 requests by the time they ended/ })).toBeVisible();
    expect(asked).toHaveLength(100);
    expect(new Set(asked.map(({ traceparent }) => traceparent.slice(3, 19))).size).toBe(1);
    // It can be saved, opened elsewhere and listed.
    const saving = page.waitForEvent('download');
    await main.getByRole('button', { name: 'Export' }).first().click();
    await page.getByRole('menuitem', { name: 'The run, JSON' }).click();
    const file = await (await saving).path();
    await page.goto(`${BESIDE.url}/evidence`);
    await page.locator('input[type=file]').setInputFiles(file);
    // One file alone is opened once it is stored.
    await expect(page).toHaveURL(/\/load\/[0-9a-f]{64}/);
    await page.goto(`${BESIDE.url}/load`);
    await page.getByRole('link', { name: /Load run 1, GET \/board/ }).click();
    await expect(page.getByRole('complementary')).toContainText('100 requests to GET /board');
    await page.goto('/load');
    await expect(page.getByRole('link', { name: /GET \/board/ }).first()).toBeVisible();
  });

  test('is stopped before its end, and keeps what it has', async ({ page }) => {
    await page.goto('/load');
    await fill(page, 'address', `${address}/forever`);
    await fill(page, 'users', '2');
    await fill(page, 'ramp-up, s', '0');
    await fill(page, 'loops', '100000');
    await form(page).getByRole('button', { name: 'Start the run' }).click();
    // The run takes all there is of a small machine: the page waits for its turn.
    await expect(page.getByRole('main').locator('dl')).toContainText(/samples\s*[1-9]/, { timeout: 60_000 });
    // A second one would measure the first.
    const other = await page.request.post('/api/load-runs', {
      data: { plan: { steps: [{ url: `${address}/board` }] } }
    });
    expect(other.status()).toBe(409);
    await page.getByRole('button', { name: 'Stop' }).click();
    await expect(page.getByRole('complementary')).toContainText('The run was stopped.', { timeout: 60_000 });
  });

  test('says what failed, and gives up', async ({ page }) => {
    await page.goto('/load');
    await fill(page, 'address', `${address}/fails`);
    await fill(page, 'users', '1');
    await fill(page, 'ramp-up, s', '0');
    await fill(page, 'loops', '500');
    await page.getByText('Method, headers, body').click();
    await fill(page, 'give up after failures in a row', '5');
    await form(page).getByRole('button', { name: 'Start the run' }).click();
    await expect(page.getByRole('complementary')).toContainText('gave up after too many failures', {
      timeout: 60_000
    });
    await expect(page.getByRole('complementary')).toContainText('the status was not the expected one');
    await page.getByRole('link', { name: 'failed', exact: true }).click();
    await expect(page.getByRole('table', { name: 'Requests of the run' }).getByRole('row')).toHaveCount(6);
  });

  test('takes its steps from curl and from an HTTP Archive, and names what it cannot do', async ({
    page
  }) => {
    await page.goto('/load');
    await page.getByText('Method, headers, body').click();
    const line = form(page).getByLabel('a line of curl');
    await line.fill(`curl -k ${address}/`);
    await form(page).getByRole('button', { name: 'Take its request' }).click();
    await expect(form(page).getByRole('alert')).toContainText('The option -k is not known here');
    await line.fill(`curl ${address}/entries --json '{"pilot":{1..9}}' -H 'Host: quay'`);
    await form(page).getByRole('button', { name: 'Take its request' }).click();
    await expect(form(page)).toContainText('Left out, since the driver sets them itself: host.');
    await fill(page, 'users', '1');
    await fill(page, 'loops', '3');
    await form(page).getByRole('button', { name: 'Start the run' }).click();
    await expect(page.getByRole('link', { name: 'Repeat it' })).toBeVisible({ timeout: 60_000 });
    expect(asked.map(({ method, path }) => `${method} ${path}`)).toEqual(Array(3).fill('POST /entries'));
    for (const { body } of asked) expect(body).toMatch(/^\{"pilot":[1-9]\}$/);

    const har = {
      log: { entries: ['/a', '/b'].map((path) => ({ request: { method: 'GET', url: address + path } })) }
    };
    await page.goto('/load');
    await page.getByText('Method, headers, body').click();
    await form(page)
      .getByLabel('or an HTTP Archive (HAR)')
      .setInputFiles({
        name: 'harbour.har',
        mimeType: 'application/json',
        buffer: Buffer.from(JSON.stringify(har))
      });
    await expect(form(page).getByLabel('address of step 2')).toHaveValue(`${address}/b`);
  });

  test('records a process on the way: a profile, and a thread dump under full load', async ({ page }) => {
    const program = `require('node:http').createServer((request, response) => { const end = Date.now() + 8; while (Date.now() < end); response.end(); })
      .listen(0, '127.0.0.1', function () { process.send(this.address().port); })`;
    const service = spawn(process.execPath, ['--inspect=127.0.0.1:9237', '-e', program], {
      stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
      env: { ...process.env, OTEL_SERVICE_NAME: 'windlass' }
    });
    try {
      const port = await new Promise<number>((resolve) =>
        service.once('message', (at) => resolve(Number(at)))
      );
      await page.goto('/load');
      await fill(page, 'address', `http://127.0.0.1:${port}/haul`);
      await fill(page, 'users', '2');
      await fill(page, 'ramp-up, s', '0');
      await fill(page, 'loops', '250');
      await page.getByText('Method, headers, body').click();
      for (const what of ['CPU profile while it runs', 'thread dump under full load'])
        await form(page)
          .getByRole('checkbox', { name: `${what} of windlass` })
          .check();
      await form(page).getByRole('button', { name: 'Start the run' }).click();
      const reading = page.getByRole('complementary');
      await expect(reading.getByRole('link', { name: /^CPU samples of windlass/ })).toBeVisible({
        timeout: 60_000
      });
      await expect(reading.getByRole('link', { name: /^thread dump of windlass/ })).toBeVisible();
    } finally {
      service.kill('SIGKILL');
    }
  });

  test.describe('refuses', () => {
    for (const [what, url, words] of [
      ['what is no address', 'http://', 'expected an address'],
      ['another machine', 'http://10.0.0.7/board', 'TROMIX_LOAD_TARGETS']
    ] as const)
      test(what, async ({ page }) => {
        await page.goto('/load');
        await fill(page, 'address', url);
        await form(page).getByRole('button', { name: 'Start the run' }).click();
        await expect(form(page).getByRole('alert')).toContainText(words);
      });
  });
});

test.describe('in the demo', () => {
  test.use({ baseURL: DEMO.url });

  test('a run is a part of the scope in every view, and a bracket on the time rail', async ({ page }) => {
    await page.goto('/');
    await page.getByRole('button', { name: /^Load run 1, tide window.*show only what it caused/ }).click();
    await expect(page.getByRole('button', { name: 'Load run: load run 1' })).toBeVisible();
    await expect(page.getByText('1 of 1 endpoint hold 100')).toBeVisible();
    await expect(page.getByRole('row', { name: /tides.*GET \/tides\/window/ })).toBeVisible();
    await expect(page.getByRole('complementary')).toContainText('240 requests');
    await page.getByRole('link', { name: 'Requests', exact: true }).click();
    await expect(page.getByRole('main')).toContainText('240');
    await expect(page.getByRole('button', { name: 'Load run: load run 1' })).toBeVisible();
    for (const view of ['Calls', 'Findings', 'Endpoint']) {
      await page.getByRole('link', { name: view }).first().click();
      await expect(page.getByRole('button', { name: 'Load run: load run 1' })).toBeVisible();
    }
    // The view must have come: a menu closes where another page takes the place of the one it is of.
    await expect(page).toHaveURL(/\/endpoint/);
    await expect(page.getByRole('main')).toContainText('/tides/window');
    await page.getByRole('button', { name: 'Load run: load run 1' }).click();
    await page.getByRole('menuitemradio', { name: 'anyone' }).click();
    await expect(page.getByRole('button', { name: 'Load run: anyone' })).toBeVisible();
  });

  test('from a slow request of a run to the request itself, where the driver’s wait is the root', async ({
    page
  }) => {
    await page.goto('/load');
    await page.getByRole('link', { name: /^Load run 1/ }).click();
    await page.getByRole('table', { name: 'Requests of the run' }).getByRole('link').first().click();
    await expect(page.getByRole('treegrid')).toContainText('GET /tides/window');
    await expect(page.getByRole('treegrid')).toContainText('predict window');
  });

  test('a request can be repeated: its address stands in the form', async ({ page }) => {
    await page.goto('/requests?service=gateway&endpoint=GET+%2Fboard');
    await page.getByRole('link', { name: 'Open the slowest' }).click();
    await page.getByRole('link', { name: 'Repeat this' }).click();
    await expect(form(page).getByLabel('address', { exact: true })).toHaveValue(
      /^http:\/\/127\.0\.0\.1:\d+\/board$/
    );
    await page.goto('/endpoint?service=gateway&endpoint=POST+%2Froster%2Fentries');
    await page.getByRole('link', { name: /Repeat the/ }).click();
    await expect(form(page)).toContainText('Its body was not recorded');
  });
});

test.describe('Connect', () => {
  test.use({ baseURL: EMPTY.url });

  test('sees the first batch arrive and leads to its requests, and says what was turned away', async ({
    page,
    request
  }) => {
    await page.goto('/connect');
    await expect(page.getByText('npx tromix run --to')).toBeVisible();
    const nowNs = BigInt(Date.now()) * 1_000_000n;
    const span = {
      traceId: '5ea0000000000000000000000000f1a9',
      spanId: '00000000000000a1',
      name: 'GET /lantern',
      kind: 2,
      startTimeUnixNano: String(nowNs),
      endTimeUnixNano: String(nowNs + 5_000_000n),
      attributes: [{ key: 'http.route', value: { stringValue: '/lantern' } }]
    };
    const attributes = [{ key: 'service.name', value: { stringValue: 'pier-lamp' } }];
    await request.post('/v1/traces', {
      data: { resourceSpans: [{ resource: { attributes }, scopeSpans: [{ spans: [span] }] }] }
    });
    await request.post('/traces', {
      headers: { 'content-type': 'application/x-protobuf' },
      data: Buffer.from('x')
    });
    await expect(page.getByRole('status').filter({ hasText: 'pier-lamp' })).toContainText('1 span so far', {
      timeout: 60_000
    });
    await expect(page.getByRole('table', { name: 'Senders' })).toContainText('pier-lamp');
    await expect(page.getByRole('complementary')).toContainText('not at /traces');
    await page.getByRole('link', { name: 'Show its requests' }).click();
    await expect(page.getByRole('link', { name: /pier-lamp/ }).first()).toBeVisible({ timeout: 60_000 });
  });
});
