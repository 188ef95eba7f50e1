import { randomBytes } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { readFileSync } from 'node:fs';
import { Webhook } from 'standardwebhooks';
import { expect, test, type Page } from '@playwright/test';
import { runFleet, stopFleet } from './fleet';
import { LIVE, FLEET_PORT } from './servers';
import { tryUntil } from './try-until';

const BERTH = '/endpoint?service=berths&endpoint=POST+%2Fcalls%2F%3Aid%2Fberth';
const dialogOf = (page: Page) => page.getByRole('dialog', { name: /^(?:Watch|Change the watch)/ });

interface Notice {
  type: string;
  data: { sentence: string; watch: { name: string } };
}

/** A webhook's receiver that takes only what is signed for it, by the reference library of Standard Webhooks. */
async function receiver(secret: string): Promise<{ url: string; taken: Notice[]; server: Server }> {
  const taken: Notice[] = [];
  const server = createServer((request, response) => {
    let body = '';
    request.on('data', (part: Buffer) => (body += part.toString()));
    request.on('end', () => {
      try {
        taken.push(new Webhook(secret).verify(body, request.headers as Record<string, string>) as Notice);
        response.end();
      } catch {
        response.writeHead(401).end();
      }
    });
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return { url: `http://127.0.0.1:${(server.address() as AddressInfo).port}/`, taken, server };
}

/** Has berths planned, two at a time, until it is called off. */
async function askForBerths(signal: AbortSignal): Promise<void> {
  const one = async (first: number): Promise<void> => {
    for (let call = first; !signal.aborted; call += 2)
      await fetch(`http://127.0.0.1:${FLEET_PORT + 1}/calls/${1 + (call % 60)}/berth`, { method: 'POST' })
        .then((answer) => answer.text())
        .catch(() => undefined);
  };
  await Promise.all([one(0), one(1)]);
}

test.use({ actionTimeout: 30_000 });
test.afterAll(stopFleet);

test('slow, noticed, handed over with its evidence, fixed, and over', async ({ page }) => {
  test.setTimeout(480_000);
  const secret = randomBytes(32).toString('base64');
  const desk = await receiver(secret);
  const added = await page.request.post(`${LIVE.url}/api/hooks`, {
    data: { name: 'desk', url: desk.url, least: 'notice', secret }
  });
  expect(added.status()).toBe(201);
  await runFleet('');
  let leave = new AbortController();
  let asking = askForBerths(leave.signal);

  // The watch is made where the endpoint is looked at, and says before it is saved what it would have said.
  await tryUntil(async (patience) => {
    await page.goto(`${LIVE.url}${BERTH}`);
    await expect(page.getByRole('application', { name: /Latency over time/ })).toBeVisible(patience);
  });
  await page.keyboard.press('w');
  const dialog = dialogOf(page);
  await dialog.getByRole('combobox', { name: /^figure/ }).selectOption('mean');
  await dialog.getByRole('combobox', { name: /^over/ }).selectOption('1 min');
  await dialog.getByLabel('on at, ms').fill('450');
  await dialog.getByLabel('off at, ms').fill('400');
  await dialog.getByLabel('minutes in a row').fill('1');
  await dialog.getByRole('textbox', { name: 'name' }).fill('Berthing takes long');
  await dialog.getByRole('combobox', { name: /^severity/ }).selectOption('urgent');
  await dialog.getByRole('combobox', { name: /^record/ }).selectOption('CPU samples');
  await dialog.getByLabel('for, seconds').fill('2');
  await expect(dialog.getByRole('status')).toContainText(/would have|No minute/);
  await dialog.getByRole('button', { name: 'Save the watch' }).click();
  await expect(dialog).toBeHidden();

  // A plan of the recorder goes by the same watch.
  await page.goto(`${LIVE.url}/recorder`);
  await page.getByRole('row', { name: /tides/ }).getByRole('radio').check();
  await page.getByLabel('for, seconds').fill('1');
  await page.getByRole('combobox', { name: /^when/ }).selectOption('while a watch is on');
  await page.getByRole('combobox', { name: /^watch/ }).selectOption('Berthing takes long');
  await page.getByRole('button', { name: 'Make the plan' }).click();
  await expect(page.getByRole('region', { name: 'Plans' })).toContainText(
    'while the watch “Berthing takes long” is on'
  );

  // It comes on: beside the view, in the list, at the desk.
  await page.goto(`${LIVE.url}/watches`);
  const row = page.getByRole('table', { name: 'Watches' }).getByRole('row', { name: /Berthing takes long/ });
  await expect(row).toContainText('urgent', { timeout: 200_000 });
  await expect(page.getByRole('link', { name: /^Watches/ })).toContainText(/[1-9]/);
  await expect.poll(() => desk.taken.map(({ type }) => type), { timeout: 30_000 }).toContain('watch.on');
  expect(desk.taken[0].data.sentence).toMatch(
    /^Mean of POST \/calls\/:id\/berth of berths is .+, above 450\sms\.$/
  );

  // The case holds what was seen, what changed, and what was recorded at that moment.
  const said = page.getByRole('table', { name: 'What they said' });
  await said.getByRole('link', { name: 'open' }).first().click({ timeout: 90_000 });
  await expect(page.getByRole('heading', { name: 'Berthing takes long: why?', level: 1 })).toBeAttached();
  const story = page.getByRole('region', { name: 'Case' });
  await expect(story).toContainText('Mean of POST /calls/:id/berth of berths is');
  await expect(story).toContainText('One query per row');
  await expect(story).toContainText('CPU profile when it came on', { timeout: 90_000 });
  await expect(story).toContainText(/berths \d+.*recorded for 2\ss/);

  // And the plan recorded too.
  await page.goto(`${LIVE.url}/recorder`);
  await expect(
    page
      .getByRole('region', { name: 'Recordings' })
      .getByRole('row', { name: /tides/ })
      .getByRole('link', { name: 'Open the profile' })
      .first()
  ).toBeVisible({ timeout: 60_000 });

  // Fixed, it clears by itself.
  leave.abort();
  await asking;
  await runFleet('all');
  leave = new AbortController();
  asking = askForBerths(leave.signal);
  await page.goto(`${LIVE.url}/watches`);
  await expect(row).toContainText('off', { timeout: 240_000 });
  await expect.poll(() => desk.taken.map(({ type }) => type), { timeout: 30_000 }).toContain('watch.off');
  leave.abort();
  await asking;

  // Who looked stands beside it; then it counts no more.
  await page.getByLabel('You look at them as').fill('pilot desk');
  await page.getByLabel('You look at them as').blur();
  await said.getByRole('button', { name: 'Looked at it' }).first().click();
  await expect(said).toContainText('pilot desk,');
  await row.getByRole('link').first().click();
  await page.getByRole('button', { name: 'Silence for 1 h' }).click();
  await expect(page.getByText(/^Nobody is told until/)).toBeVisible();
  await page.getByRole('button', { name: 'Remove it' }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Remove it' }).click();
  await expect(page.getByText('No watches yet')).toBeVisible();
  // The plan went with what it went by.
  await page.goto(`${LIVE.url}/recorder`);
  await expect(page.getByRole('region', { name: 'Plans' })).toBeHidden();
  desk.server.close();
});

test('a watch shows what it would have said before it is saved, in words and on the rail', async ({
  page
}) => {
  await page.goto(`${BERTH}&last=1h`);
  await expect(page.getByRole('application', { name: /Latency over time/ })).toBeVisible();
  await page.keyboard.press('w');
  const dialog = dialogOf(page);
  await expect(dialog.getByText(/^On: p95 of POST/)).toBeVisible();
  await dialog.getByLabel('on at, ms').fill('1000');
  await dialog.getByLabel('off at, ms').fill('800');
  await expect(dialog.getByRole('status')).toContainText(
    /It would have come on once in the .+ since the first data/
  );
  await expect(
    dialog.getByRole('list', { name: 'When it would have been on' }).getByRole('listitem')
  ).toHaveCount(1);
  await expect(page.getByRole('application', { name: /Time rail.*1 stretch marked/ })).toBeVisible();
  // The limit for off lies on the better side, else it is not saved.
  await dialog.getByLabel('off at, ms').fill('1200');
  await dialog.getByRole('button', { name: 'Save the watch' }).click();
  await expect(page.getByText(/the limit for off on the better side/)).toHaveCount(1);
  await page.keyboard.press('Escape');
  await expect(dialog).toBeHidden();
  await expect(page.getByRole('application', { name: /marked/ })).toBeHidden();
});

test('a webhook outside of the loopback is refused in words, one that is not there is tried again', async ({
  page
}) => {
  await page.goto('/watches/webhooks');
  const form = page.getByRole('form', { name: 'New webhook' });
  await form.getByLabel('name').fill('metadata');
  await form.getByLabel('address').fill('http://169.254.169.254/latest');
  await form.getByRole('button', { name: 'Add it' }).click();
  await expect(page.getByText(/TROMIX_HOOK_TARGETS/).last()).toBeVisible();
  await form.getByLabel('address').fill('http://127.0.0.1:9/nobody');
  await form.getByRole('button', { name: 'Add it' }).click();
  await expect(page.getByText(/^whsec_/)).toBeVisible();
  await page.getByRole('button', { name: 'Send a test' }).click();
  const sent = page.getByRole('table', { name: 'What was sent' });
  await expect(sent).toContainText('It cannot be reached');
  await expect(sent).toContainText('again at');
  await page.getByRole('table', { name: 'Webhooks' }).getByRole('button', { name: 'Remove' }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Remove it' }).click();
  await expect(page.getByText('No webhook yet.')).toBeVisible();
});

test('a board is made from any view, ordered, saved as a file and opened again', async ({ page }) => {
  await page.goto(BERTH);
  await page.getByRole('button', { name: 'Watch', exact: true }).first().click();
  await page.getByRole('menuitem', { name: 'Put it on a board' }).click();
  const dialog = page.getByRole('dialog', { name: 'Put on which board?' });
  await dialog.getByLabel('Name of the new board').fill('Night watch');
  await dialog.getByRole('button', { name: 'Make it' }).click();
  await expect(page.getByText('Put on “Night watch”.')).toBeVisible();
  // A second one, from a row.
  await page.goto('/failures');
  const failure = page.getByRole('table', { name: 'Failures' }).getByRole('row').nth(1);
  await failure.getByRole('button', { name: 'More' }).click();
  await page.getByRole('menuitem', { name: 'Put it on a board' }).click();
  await dialog.getByRole('button', { name: /^Night watch/ }).click();
  await expect(page.getByText('Put on “Night watch”.')).toBeVisible();
  await page.goto('/boards');
  await page.getByRole('link', { name: 'Night watch' }).click();
  const charts = page.getByRole('region', { name: 'Board' }).getByRole('listitem');
  await expect(charts).toHaveCount(2);
  await expect(charts.first()).toHaveAccessibleName(/^p95 of POST/);
  await charts
    .last()
    .getByRole('button', { name: /^More about/ })
    .click();
  await page.getByRole('menuitem', { name: 'Move it up' }).click();
  await expect(charts.last()).toHaveAccessibleName(/^p95 of POST/);
  await page.reload();
  await expect(charts.last()).toHaveAccessibleName(/^p95 of POST/);

  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Save as a file' }).click()
  ]);
  const file = readFileSync(await download.path(), 'utf8');
  expect(JSON.parse(file)).toMatchObject({ tromixBoard: 1, name: 'Night watch' });
  await page.getByRole('button', { name: 'Remove the board' }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Remove it' }).click();
  await expect(page).toHaveURL(/\/boards$/);

  const open = (name: string, text: string): Promise<void> =>
    page
      .getByLabel('Open a file')
      .setInputFiles({ name, mimeType: 'application/json', buffer: Buffer.from(text) });
  await open('newer.json', file.replace('"tromixBoard": 1', '"tromixBoard": 7'));
  await expect(page.getByText(/newer\.json cannot be opened\. It is a board of version 7/)).toBeVisible();
  await open('night.json', file);
  await expect(charts).toHaveCount(2);
  await page.getByRole('button', { name: 'Remove the board' }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Remove it' }).click();
});

test('requests and single calls are explored by any attribute, and what is found is watched', async ({
  page
}) => {
  await page.goto('/requests?service=berths&by=endpoint');
  await page.getByRole('link', { name: 'Explore' }).click();
  const groups = page.getByRole('table', { name: 'Groups' });
  await expect(groups.getByRole('row').nth(1)).toContainText('POST /calls/:id/berth');
  await page.getByRole('combobox', { name: /^by/ }).selectOption('attr:http.response.status_code');
  await expect(groups.getByRole('row', { name: /^200/ })).toBeVisible();
  await groups.getByRole('row', { name: /^200/ }).getByRole('button', { name: 'More' }).click();
  await page.getByRole('menuitem', { name: 'Watch it' }).click();
  await expect(dialogOf(page)).toContainText('http.response.status_code=200');
  await page.keyboard.press('Escape');

  await page.getByRole('combobox', { name: /^group/ }).selectOption('single calls');
  await expect(groups.getByRole('row').nth(1)).toContainText('select');
  await page.getByRole('combobox', { name: /^by/ }).selectOption('attr:db.system.name');
  await expect(groups.getByRole('row', { name: /^sqlite/ })).toBeVisible();
  await page.getByRole('link', { name: 'p95', exact: true }).click();
  await expect(page.getByRole('application', { name: /^p95 of calls by db\.system\.name/ })).toBeVisible();
});
