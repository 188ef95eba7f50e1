import { writeFile } from 'node:fs/promises';
import { expect, test, type APIRequestContext, type Locator, type Page } from '@playwright/test';
import { EMPTY } from './servers';

// A little port of four hosts, sent to the empty server: one host is slow, one release is slow, one endpoint is chatty, one
// attribute goes with slow requests. What is found by clicks must be what was planted.
test.use({ baseURL: EMPTY.url });

const text = (key: string, stringValue: string): object => ({ key, value: { stringValue } });
let ids = 0;
const hex = (length: number): string => `7${(++ids).toString(16).padStart(length - 1, '0')}`;

interface Made {
  service: string;
  host: string;
  release: string;
  route: string;
  ms: number;
  agoMs: number;
  calls?: number;
  attributes?: [string, string][];
  failing?: boolean;
}

function request(made: Made): object {
  const start = Date.now() - made.agoMs;
  const time = (ms: number): string => `${Math.round((start + ms) * 1000)}000`;
  const traceId = hex(32);
  const spanId = hex(16);
  const spans: object[] = [
    {
      traceId,
      spanId,
      name: made.route,
      kind: 2,
      startTimeUnixNano: time(0),
      endTimeUnixNano: time(made.ms),
      status: made.failing ? { code: 2, message: 'berth is taken' } : {},
      attributes: [
        text('http.request.method', 'GET'),
        text('http.route', made.route),
        ...(made.attributes ?? []).map(([name, value]) => text(name, value))
      ],
      events: made.failing
        ? [
            {
              name: 'exception',
              timeUnixNano: time(made.ms / 2),
              attributes: [
                text('exception.type', 'BerthTaken'),
                text('exception.message', 'berth 4 <b>is</b> taken'),
                text(
                  'exception.stacktrace',
                  'BerthTaken: berth 4\n    at claim (/srv/quillhaven/berths/claim.ts:31:9)\n    at next (/srv/node_modules/router/index.js:4:2)'
                )
              ]
            }
          ]
        : []
    }
  ];
  for (let i = 0; i < (made.calls ?? 0); i++)
    spans.push({
      traceId,
      spanId: hex(16),
      parentSpanId: spanId,
      name: 'GET',
      kind: 3,
      startTimeUnixNano: time(1 + (i * made.ms) / (made.calls! + 1)),
      endTimeUnixNano: time(((i + 0.9) * made.ms) / (made.calls! + 1)),
      attributes: [
        text('http.request.method', 'GET'),
        text('url.full', `http://tides.quillhaven/window?station=${i}`),
        text('code.file.path', 'gateway/board.ts'),
        { key: 'code.line.number', value: { intValue: 12 } }
      ]
    });
  const attributes = [
    text('service.name', made.service),
    text('host.name', made.host),
    text('service.version', made.release)
  ];
  return { resource: { attributes }, scopeSpans: [{ spans }] };
}

const reading = (page: Page): Locator => page.getByRole('complementary', { name: 'Reading' });
const HOSTS = ['pier-1', 'pier-2', 'pier-3', 'pier-4'];
const MINUTE = 60_000;

async function send(api: APIRequestContext, path: string, body: object): Promise<void> {
  const answer = await api.post(path, {
    data: Buffer.from(JSON.stringify(body)),
    headers: { 'content-type': 'application/json' }
  });
  expect(answer.status()).toBe(200);
}

test.beforeAll(async ({ playwright }) => {
  const api = await playwright.request.newContext({ baseURL: EMPTY.url });
  // A second worker finds the port already sent.
  if ((await (await api.get('/__data.json?service=boards')).text()).includes('chatty-remote')) return;
  const resourceSpans: object[] = [];
  for (let i = 0; i < 160; i++) {
    const host = HOSTS[i % 4];
    const spread = 1 + (i % 7) / 50;
    // The slow host, at one endpoint.
    resourceSpans.push(
      request({
        service: 'ferries',
        host,
        release: '1.0',
        route: '/sailings',
        ms: (host === 'pier-3' ? 240 : 80) * spread,
        agoMs: (2 + (i % 20)) * MINUTE
      })
    );
    // The slow release, at another: from ten minutes ago on.
    const late = i % 20 < 10;
    resourceSpans.push(
      request({
        service: 'tickets',
        host,
        release: late ? '2.1' : '2.0',
        route: '/tickets',
        ms: (late ? 150 : 50) * spread,
        agoMs: (late ? 1 + (i % 10) * 0.8 : 11 + (i % 10)) * MINUTE,
        attributes: [['user.id', `guest-${i % 9}`]]
      })
    );
    // Slow where the zone is north.
    resourceSpans.push(
      request({
        service: 'moorings',
        host,
        release: '1.0',
        route: '/moorings',
        ms: (i % 10 === 0 ? 700 : 60) * spread,
        agoMs: (2 + (i % 20)) * MINUTE,
        attributes: [['mooring.zone', i % 10 === 0 ? 'north' : ['south', 'east'][i % 2]]],
        failing: i === 5
      })
    );
  }
  for (let i = 0; i < 30; i++)
    resourceSpans.push(
      request({
        service: 'boards',
        host: 'pier-1',
        release: '1.0',
        route: '/board',
        ms: 400,
        agoMs: (2 + (i % 20)) * MINUTE,
        calls: 24
      })
    );
  await send(api, '/v1/traces', { resourceSpans });
  await expect(async () => {
    const page = await (await api.get('/__data.json?service=boards')).text();
    expect(page).toContain('chatty-remote');
  }).toPass({ timeout: 60_000 });
  await api.dispose();
});

test('the planted slow host is found from the overview', async ({ page }) => {
  await page.goto('/?service=ferries');
  await page.getByRole('region', { name: 'Endpoints' }).getByRole('link', { name: 'GET /sailings' }).click();
  await expect(page).toHaveURL(/\/endpoint\?service=ferries&endpoint=GET/);
  // The odd one stands first among the small pictures, and the reading names it.
  await expect(page.getByLabel('Hosts and releases').getByRole('link').first()).toContainText('pier-3');
  await expect(reading(page)).toContainText(/pier-3 stands out/);
  await page.getByRole('link', { name: 'Look at pier-3' }).click();
  await expect(page).toHaveURL(/host=pier-3/);
  await expect(page.getByText(/ferries · 40 requests/)).toBeVisible();
});

test('the planted release is told with the test behind it', async ({ page }) => {
  await page.goto('/?service=tickets&rank=change');
  const row = page.getByRole('row', { name: /GET \/tickets/ });
  await expect(row).toContainText('▲');
  await expect(row.getByTitle(/Slower: .*rank test/)).toBeVisible();
  await page.getByRole('link', { name: 'Look at 2.1' }).click();
  await expect(page).toHaveURL(/release=2\.1/);
  // Rows may be releases as well.
  await page.goto('/?service=tickets&rows=releases');
  await expect(
    page.getByRole('region', { name: 'By release' }).getByRole('link', { name: '2.1' })
  ).toBeVisible();
});

test('the chatty call is found in Calls and told from a slow service', async ({ page }) => {
  await page.goto('/calls?kind=http&sort=-most');
  await page.getByRole('table', { name: 'Calls' }).getByRole('row').nth(1).click();
  await expect(page.getByTestId('statement')).toContainText('GET tides.quillhaven/window?station');
  await expect(reading(page)).toContainText(/24\.0 per request/);
  await expect(page.getByRole('table', { name: 'Called from' })).toContainText('gateway/board.ts:12');
  await page.getByRole('link', { name: /^most calls/ }).click();
  await expect(page.getByRole('treegrid')).toBeVisible();
  await expect(page.getByRole('heading', { name: /One remote call per item/ })).toBeVisible();
  await page.getByRole('button', { name: 'Preview the fix' }).first().click();
  await expect(page.getByText(/The thin bars: with/)).toBeVisible();
});

test('what sets slow requests apart is the planted attribute, and leads to them', async ({ page }) => {
  await page.goto('/endpoint?service=moorings&endpoint=GET+%2Fmoorings');
  const table = page.getByRole('table', { name: 'What sets slow requests apart' });
  await expect(table.getByRole('row').nth(1)).toContainText('mooring.zone');
  await table.getByRole('link', { name: 'north' }).click();
  await expect(page).toHaveURL(/attr=mooring\.zone%3Dnorth/);
  await expect(page.getByText('mooring.zone is north')).toBeVisible();
  await expect(reading(page)).toContainText(/1[5-6] requests match/);
});

test('a rectangle on the heat map lists just those requests', async ({ page }) => {
  await page.goto('/endpoint?service=moorings&endpoint=GET+%2Fmoorings');
  const map = page.getByRole('application', { name: /Latency over time/ });
  const box = (await map.boundingBox())!;
  // The upper part: only the slow ones lie there.
  await page.mouse.move(box.x + 62, box.y + 3);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width - 16, box.y + 40, { steps: 4 });
  await page.mouse.up();
  await page.getByRole('link', { name: /^List 16 of them/ }).click();
  await expect(page).toHaveURL(/slower=.*faster=|faster=.*slower=/);
  await expect(reading(page)).toContainText('16 requests match');
});

test('T of an endpoint moves its zones at once', async ({ page }) => {
  await page.goto('/endpoint?service=ferries&endpoint=GET+%2Fsailings');
  await expect(page.getByRole('link', { name: /160 satisfied/ })).toBeVisible();
  await page.getByRole('spinbutton', { name: /^T/ }).fill('100');
  await page.getByRole('spinbutton', { name: /^T/ }).press('Enter');
  await expect(page.getByRole('link', { name: /120 satisfied/ })).toBeVisible();
  await page.getByRole('link', { name: /40 tolerating/ }).click();
  await expect(reading(page)).toContainText('40 requests match');
});

test('the search takes conditions, groups by any attribute, and keeps all of it in the URL', async ({
  page
}) => {
  await page.goto('/requests?service=tickets');
  await page.getByRole('button', { name: 'condition' }).click();
  await page.getByLabel('Condition').selectOption('user');
  await page.getByRole('combobox', { name: 'Value' }).fill('guest-3');
  await page.getByRole('button', { name: 'Add' }).click();
  await expect(page).toHaveURL(/user=guest-3/);
  await expect(reading(page)).toContainText('18 requests match');
  await page.getByRole('button', { name: 'Without the condition user guest-3' }).click();
  await expect(reading(page)).toContainText('160 requests match');
  await page.getByLabel('grouped by').selectOption('attr:user.id');
  await expect(page.getByRole('table', { name: 'Requests by user.id' }).getByRole('row')).toHaveCount(10);
  await page.getByRole('button', { name: 'Columns', exact: true }).click();
  await page.getByRole('menuitemcheckbox', { name: 'user.id' }).click();
  await expect(page).toHaveURL(/cols=.*attr%3Auser\.id/);
  await page.keyboard.press('Escape');
  await page.reload();
  await expect(
    page.getByRole('table', { name: 'Requests', exact: true }).getByText('guest-', { exact: false }).first()
  ).toBeVisible();
});

test('a failed request shows its exception with the application’s frames, as text', async ({ page }) => {
  await page.goto('/requests?service=moorings&status=failed');
  await page.getByRole('table', { name: 'Requests', exact: true }).getByRole('link').first().click();
  await expect(page.getByText('BerthTaken', { exact: true })).toBeVisible();
  await expect(page.getByText('berth 4 <b>is</b> taken')).toBeVisible();
  await expect(page.getByText('claim', { exact: true })).toBeVisible();
  await expect(page.getByText('1 frame of the runtime and of dependencies')).toBeVisible();
});

test('a finding is set aside with a reason and taken up again', async ({ page }) => {
  await page.goto('/findings?service=boards');
  const finding = page.getByRole('listitem').filter({ hasText: 'One remote call per item' });
  await finding.getByRole('button', { name: 'Set aside' }).click();
  await page.getByLabel('Reason').fill('the board is small');
  await finding.getByRole('button', { name: 'Set aside' }).first().click();
  await expect(page.getByRole('heading', { name: 'Set aside' })).toBeVisible();
  await expect(page.getByText('“the board is small”')).toBeVisible();
  await page.goto('/?service=boards');
  await expect(page.getByRole('heading', { name: /One remote call per item/ })).toHaveCount(0);
  await page.goto('/findings?service=boards');
  await page.getByRole('button', { name: 'Take up again' }).click();
  await expect(page.getByRole('heading', { name: 'Set aside' })).toHaveCount(0);
});

test('keep rules say what they would have kept before they are saved', async ({ page }) => {
  // The sixteen that were planted, and whatever other tests have sent within the hour.
  await page.goto('/requests?last=1h&slower=600');
  const counted = reading(page).getByText(/requests match/);
  await expect(counted).toBeVisible();
  const slow = Number(/(\d+) requests match/.exec(await counted.innerText())![1]);
  expect(slow).toBeGreaterThanOrEqual(16);
  await page.goto('/evidence/keep');
  await expect(page.getByTestId('keep-preview')).toContainText('requests of the last hour');
  await page.getByLabel('Kind of rule').selectOption('slower');
  await page.getByRole('button', { name: 'Add a rule' }).click();
  await page.getByLabel('Milliseconds').fill('600');
  await expect(page.getByTestId('keep-preview')).toContainText(`would have kept ${slow} of`);
  await page.getByRole('button', { name: 'Save the rules' }).click();
  await page.reload();
  await expect(page.getByLabel('Milliseconds')).toHaveValue('600');
  await page.getByRole('button', { name: 'Remove the rule slower than' }).click();
  await page.getByRole('button', { name: 'Save the rules' }).click();
  await expect(page.getByText('No rule: everything is kept.')).toBeVisible();
});

test('a log of statements is grouped in Calls, its lines are not kept', async ({ page }) => {
  await page.goto('/evidence');
  const lines = Array.from(
    { length: 12 },
    (_, i) =>
      `2026-11-20 09:00:${String(i).padStart(2, '0')}.250 UTC [812] app@haven LOG:  duration: ${5 + i}.000 ms  statement: SELECT id FROM logged_line WHERE call = ${i} AND note = 'hush'`
  );
  await page.getByLabel('Evidence file').setInputFiles({
    name: 'haven.log',
    mimeType: 'text/plain',
    buffer: Buffer.from(lines.join('\n'))
  });
  await expect(page.getByText('12 statements of haven.log read into Calls.')).toBeVisible();
  await page.getByRole('link', { name: 'haven.log' }).click();
  const table = page.getByRole('table', { name: 'Statements of logs' });
  await expect(table.getByRole('row').nth(1)).toContainText(
    'select id from logged_line where call = ? and note = ?'
  );
  await expect(table.getByRole('row').nth(1)).toContainText('app@haven');
  expect(await page.content()).not.toContain('hush');
});

test('OTLP logs stand on the time axis of their request', async ({ page, request: api }) => {
  const list = await (await api.get('/requests/__data.json?service=boards')).text();
  const [, traceId, spanId] = /"([0-9a-f]{32})","([0-9a-f]{16})"/.exec(list)!;
  const record = {
    timeUnixNano: `${Date.now() - 5 * MINUTE}000000`,
    severityNumber: 17,
    body: { stringValue: 'the board is empty <i>' },
    traceId,
    spanId
  };
  await send(api, '/v1/logs', {
    resourceLogs: [{ scopeLogs: [{ logRecords: [record, { ...record, traceId: '' }] }] }]
  });
  await page.goto(`/requests/${traceId}/${spanId}`);
  await page
    .getByRole('row', { name: /GET \/board|\/board/ })
    .first()
    .click();
  await expect(page.getByRole('region', { name: 'Selected' })).toContainText('the board is empty <i>');
  const log = page.getByRole('region', { name: 'Log', exact: true });
  await expect(log).toContainText('the board is empty <i>');
  // News of other data make the page ask anew, and leave what was chosen on it.
  const later = { ...record, body: { stringValue: 'the board is full again' } };
  const news = page.waitForResponse((response) => response.url().includes('__data.json'));
  await send(api, '/v1/logs', { resourceLogs: [{ scopeLogs: [{ logRecords: [later] }] }] });
  await news;
  await page.waitForTimeout(500);
  await expect(page.getByRole('region', { name: 'Selected' })).toContainText('the board is empty <i>', {
    timeout: 100
  });
});

test('exports of a request: the trace, and text for a ticket', async ({ page }) => {
  await page.goto('/requests?service=boards');
  await page.getByRole('table', { name: 'Requests', exact: true }).getByRole('link').first().click();
  await page.getByRole('button', { name: 'Export' }).click();
  const [trace] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('menuitem', { name: 'The trace (OTLP JSON)' }).click()
  ]);
  expect(trace.suggestedFilename()).toMatch(/\.otlp\.json$/);
  await page.getByRole('button', { name: 'Export' }).click();
  const [ticket] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('menuitem', { name: 'Text for a ticket, as a file' }).click()
  ]);
  expect(ticket.suggestedFilename()).toMatch(/\.md$/);
  await page.getByRole('button', { name: 'Export' }).click();
  const [picture] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('menuitem', { name: 'Picture of the timeline (SVG)' }).click()
  ]);
  expect(picture.suggestedFilename()).toMatch(/\.svg$/);
});

test('a right-click and the visible "…" offer the same, and lead on', async ({ page }) => {
  await page.goto('/?service=tickets');
  const row = page.getByRole('row', { name: /GET \/tickets/ });
  await row.click({ button: 'right' });
  const menu = page.getByRole('menu', { name: 'More' });
  const offered = await menu.getByRole('menuitem').allInnerTexts();
  expect(offered).toEqual([
    'Open',
    'Copy the link',
    'Its requests',
    'Its failed requests',
    'Its calls',
    'Why its slow ones are slow',
    'Before against after',
    'Its findings',
    'Copy the name',
    'Watch it',
    'Put it on a board',
    'Pin to a case',
    'Brief of it'
  ]);
  await page.keyboard.press('Escape');
  await expect(menu).toBeHidden();
  await row.getByRole('button', { name: 'More' }).click();
  expect(await menu.getByRole('menuitem').allInnerTexts()).toEqual(offered);
  await menu.getByRole('menuitem', { name: 'Its requests' }).click();
  await expect(reading(page)).toContainText('160 requests match');

  const request = page.getByRole('table', { name: 'Requests', exact: true }).getByRole('link').first();
  // The keyboard's way to the same menu.
  await request.focus();
  await page.keyboard.press('Shift+F10');
  await expect(menu.getByRole('menuitem', { name: 'Copy the trace id' })).toBeVisible();
});

test('a file that is dropped on the page is taken in', async ({ page }, info) => {
  const file = info.outputPath('dropped.log');
  await writeFile(
    file,
    '2026-11-20 09:00:01.250 UTC [812] app@haven LOG:  duration: 7.000 ms  statement: SELECT id FROM dropped_line WHERE call = 1\n'
  );
  await page.goto('/evidence');
  const zone = page.getByRole('region', { name: 'Add evidence' });
  const box = (await zone.boundingBox())!;
  // What the browser does when a file comes from the desktop.
  const desktop = await page.context().newCDPSession(page);
  const at = { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  const data = { items: [], files: [file], dragOperationsMask: 1 };
  for (const type of ['dragEnter', 'dragOver', 'drop'] as const)
    await desktop.send('Input.dispatchDragEvent', { type, ...at, data });
  await expect(page.getByText('1 statement of dropped.log read into Calls.')).toBeVisible();
});
