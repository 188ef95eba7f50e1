import { expect, test, type APIResponse, type Page } from '@playwright/test';
import { runFleet, stopFleet } from './fleet';
import { LIVE, DEMO, FLEET_PORT } from './servers';
import { tryUntil } from './try-until';

// From an endpoint to its functions, to the one that is slower since a release, to its line, and to its calls from inside: on services that run.
test.afterEach(stopFleet);

let station = 50_000;
/** Asks for the tides of one station after another until told to stop: nothing comes out of a cache. */
function askTides(): () => Promise<void> {
  const over = new AbortController();
  const asking = (async () => {
    while (!over.signal.aborted) {
      await fetch(`http://127.0.0.1:${FLEET_PORT + 2}/tides/window?station=${station++}`).then((answer) =>
        answer.text()
      );
      await new Promise((resolve) => setTimeout(resolve, 30));
    }
  })();
  return async () => {
    over.abort();
    await asking;
  };
}

async function chooseTides(page: Page): Promise<void> {
  await page.getByRole('row', { name: /tides/ }).getByRole('radio').check();
}

/** Records the tides for some seconds while they are asked. */
async function recordTides(page: Page, seconds: number, calls = 'no'): Promise<void> {
  const done = askTides();
  await page.goto(`${LIVE.url}/recorder`);
  await chooseTides(page);
  await page.getByLabel('for, seconds').fill(String(seconds));
  await page.getByRole('combobox', { name: /^calls/ }).selectOption(calls);
  await page.getByRole('button', { name: 'Start recording' }).click();
  await expect(page.getByText('This process is being recorded.')).toBeVisible();
  const newest = page.getByRole('region', { name: 'Recordings' }).getByRole('row').first();
  await expect(newest.getByRole('link', { name: 'Open the profile' })).toBeVisible({
    timeout: (seconds + 40) * 1000
  });
  await done();
}

test('from an endpoint to the function that is slower since a release, its line, and its calls from inside', async ({
  page
}) => {
  test.setTimeout(300_000);
  await runFleet('thrown-for-control', '8.1');
  await recordTides(page, 40);
  await runFleet('', '8.2');
  await recordTides(page, 40);

  // From the endpoint in one click.
  const reading = page.getByRole('complementary', { name: 'Reading' });
  await tryUntil(async (patience) => {
    await page.goto(`${LIVE.url}/endpoint?service=tides&endpoint=GET+/tides/window`);
    await page.getByRole('link', { name: 'Its functions' }).click();
    await page.waitForURL(/profiles\/scope/);
    await expect(reading.getByRole('heading', { name: /Slower since 8\.2/ }).first()).toBeVisible(patience);
  });
  await expect(reading).toContainText(/GET \/tides\/window computed for .* a request/);
  const finding = reading.locator('section', { hasText: 'Slower since 8.2' }).first();
  await expect(finding).toContainText(
    /Since release 8\.2, (?:StampError|read|tryForm|parseStamp) \(tides\/stamp\.ts:\d+\) takes .* of CPU a request.*8\.1/
  );

  // The two releases, one over the other.
  await finding.getByRole('link', { name: 'Show the difference' }).click();
  await expect(page.getByTestId('flame')).toBeVisible();
  await expect(reading).toContainText(/8\.1: .* recorded,\s+[\d.\s]+ requests\.\s+8\.2: .* recorded/);
  await expect(page.getByRole('option', { name: /StampError/ })).toContainText('▲');
  await page.goBack();

  // Over time and releases, then its lines.
  await finding.getByRole('link', { name: 'Over time' }).click();
  await expect(page.getByTestId('function-over-time')).toContainText('CPU a request');
  await expect(page.getByTestId('function-over-time')).toContainText('8.1');
  await finding.getByRole('link', { name: 'Show its lines' }).click();
  await expect(page.getByTestId('source-lines')).toContainText('throw new StampError');

  // Its calls, in the process that runs now.
  await page.getByRole('link', { name: 'From the root' }).click();
  await expect(page.getByTestId('flame')).toBeVisible();
  await page.getByLabel('Search functions').fill('parseStamp');
  await page.getByRole('option', { name: /parseStamp/ }).click();
  await page
    .getByRole('region', { name: 'Selected' })
    .getByRole('link', { name: 'Look at its calls from inside' })
    .click();
  await expect(page.getByLabel('function', { exact: true })).toHaveValue('parseStamp');
  await chooseTides(page);
  const done = askTides();
  await page.getByLabel('calls', { exact: true }).fill('4');
  await page.getByLabel('for at most, seconds').fill('60');
  await page.getByRole('button', { name: 'Look at its calls' }).click();
  await expect(reading).toContainText('It saw 4 calls.', { timeout: 90_000 });
  await done();
  const calls = page.getByRole('region', { name: 'One function from inside' });
  await expect(calls).toContainText(/text = "20\d\d-\d\d-.*, isoLast = true/);
  await calls.getByRole('link').first().click();
  await expect(reading).toContainText(/Called by.*tides/);
  await expect(reading).toContainText(
    /Looked at parseStamp \(tides\/stamp\.ts:\d+\) from inside the process/
  );
});

test('counts every call, and tells how many a request makes', async ({ page }) => {
  test.setTimeout(240_000);
  await runFleet('thrown-for-control', '8.3');
  await recordTides(page, 8, 'beside');
  await page.getByRole('link', { name: 'Open the profile' }).first().click();
  await expect(page.getByTestId('flame')).toBeVisible();
  await expect(page.getByRole('complementary', { name: 'Reading' })).toContainText(/calls were counted in/);
  await page.getByLabel('Search functions').fill('parseStamp');
  const row = page.getByRole('option', { name: /parseStamp/ });
  // Each request reads the 160 lines of a station, in one go: counted is a whole number of them.
  const [, counted] = /parseStamp\D+?[\d.<\s]+ ?%[^%]+%\s*([\d\s]+?)(?=\s*[\d.–]+\s*(?:[\d.]+ [µn]s|–))/.exec(
    (await row.innerText()).replace(/\n/g, ' ')
  ) ?? ['', ''];
  expect(Number(counted.replace(/\D/g, '')) % 160).toBe(0);
  expect(Number(counted.replace(/\D/g, ''))).toBeGreaterThan(0);
});

test('records all the time, and keeps the sums of what it removes', async ({ page }) => {
  test.setTimeout(240_000);
  await runFleet('thrown-for-control', '8.4');
  await page.goto(`${LIVE.url}/recorder`);
  await chooseTides(page);
  await page.getByRole('combobox', { name: /^when/ }).selectOption('always');
  await page.getByLabel('for, seconds').fill('3');
  await page.getByLabel('every process of tides').check();
  await page.getByRole('button', { name: 'Make the plan' }).click();
  const plans = page.getByRole('region', { name: 'Plans' });
  await expect(plans).toContainText(
    /CPU samples of the processes of tides, one after another all the time, 3 s of every (?:1 min|60 s), for at most 1\s?% of a core/
  );
  const done = askTides();
  const newest = page.getByRole('region', { name: 'Recordings' }).getByRole('row').first();
  await expect(newest.getByRole('link', { name: 'Open the profile' })).toBeVisible({ timeout: 60_000 });
  await done();
  await plans.getByRole('button', { name: 'End' }).first().click();
  await expect(page.getByText(/processes of tides, one after another/)).toBeHidden();
});

test('looks into no function unless whoever runs the server says so', async ({ page, request }) => {
  await page.goto(`${DEMO.url}/recorder/observe`);
  await expect(page.getByRole('main')).toContainText('TROMIX_OBSERVE=1');
  const ask = (server: string, address: string): Promise<APIResponse> =>
    request.post(`${server}/api/observations`, {
      headers: { origin: server },
      data: { address, name: 'f', file: 'a.js', line: 1, column: 1, calls: 1, seconds: 1, share: 0.1 }
    });
  expect((await ask(DEMO.url, '127.0.0.1:9229')).status()).toBe(403);
  expect((await ask(LIVE.url, '192.0.2.1:9229')).status()).toBe(403);
});
