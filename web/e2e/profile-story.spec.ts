import { spawn } from 'node:child_process';
import { expect, test, type Page } from '@playwright/test';
import { runFleet, stopFleet } from './fleet';
import { LIVE, FLEET_PORT } from './servers';
import { tryUntil } from './try-until';

// The test asks the tides itself, each station once, so that nothing comes out of a cache.
test.afterEach(stopFleet);

let station = 1;
/** Asks for the tides of one station after another, or of several at once, until told to stop. */
async function askTides(
  stop: AbortSignal,
  what = (): string => `window?station=${station++}`
): Promise<void> {
  while (!stop.aborted) {
    await fetch(`http://127.0.0.1:${FLEET_PORT + 2}/tides/${what()}`).then((answer) => answer.text());
    await new Promise((resolve) => setTimeout(resolve, 15));
  }
}

/** Records the tides service from the recorder's page, and opens what came of it. */
async function recordTides(page: Page, seconds: number): Promise<string> {
  await page.goto(`${LIVE.url}/recorder`);
  await page.getByRole('row', { name: /tides/ }).getByRole('radio').check();
  await page.getByLabel('for, seconds').fill(String(seconds));
  await page.getByRole('button', { name: 'Start recording' }).click();
  await expect(page.getByLabel('Recorded', { exact: true })).toBeVisible();
  await expect(page.getByText('This process is being recorded.')).toBeVisible();
  // It ends by itself.
  const recordings = page.getByRole('region', { name: 'Recordings' });
  const open = recordings.getByRole('row').first().getByRole('link', { name: 'Open the profile' });
  const over = new AbortController();
  const asking = askTides(over.signal);
  await expect(open).toBeVisible({ timeout: (seconds + 20) * 1000 });
  over.abort();
  await asking;
  await expect(recordings.getByRole('row').first()).toContainText('while it was sampled');
  await open.click();
  await expect(page.getByTestId('flame')).toBeVisible();
  return /profiles\/([0-9a-f]{64})/.exec(page.url())![1];
}

test('records a service, finds the parser that throws, and its line; after the fix the difference says so', async ({
  page
}) => {
  test.setTimeout(240_000);
  await runFleet('');
  const before = await recordTides(page, 8);

  const reading = page.getByRole('complementary');
  await expect(reading.getByRole('heading', { name: /Exceptions as control flow/ })).toBeVisible();
  await expect(reading).toContainText('StampError');

  // Its calls merged, and back by the browser's own button.
  await page.getByLabel('Search functions').fill('StampError');
  await page.getByRole('option', { name: /StampError/ }).click();
  await page
    .getByRole('region', { name: 'Selected' })
    .getByRole('link', { name: 'Merge all its calls' })
    .click();
  await expect(page.getByText('all calls of StampError')).toBeVisible();
  await expect(page).toHaveURL(/root=StampError/);
  await page.goBack();
  await expect(page.getByText('all calls of StampError')).toBeHidden();
  await page.goForward();
  await expect(page.getByText('all calls of StampError')).toBeVisible();
  await page.getByLabel('Take back: all its calls, merged').click();

  await page.getByRole('link', { name: 'Show its lines' }).first().click();
  const source = page.getByTestId('source-lines');
  await expect(source).toContainText('throw new StampError');
  await expect(source.locator('.line-warm').first()).toBeVisible();

  await runFleet('thrown-for-control');
  const after = await recordTides(page, 8);
  await page.goto(`${LIVE.url}/compare/profiles?before=${before}&after=${after}`);
  await expect(page.getByRole('complementary')).toContainText(
    /StampError.*changed most: (?:it is gone|from .* to )/,
    {
      timeout: 60_000
    }
  );
  await expect(page.getByRole('option', { name: /StampError/ })).toContainText('▼');
});

test('cancels a recording, and says when there is nobody to record', async ({ page }) => {
  test.setTimeout(240_000);
  await page.goto(`${LIVE.url}/recorder`);
  await expect(page.getByText('No process with an open inspector was found.')).toBeVisible();
  await page.getByLabel('Address of an inspector').fill('192.0.2.1:9229');
  await page.getByRole('button', { name: 'Add' }).click();
  await expect(page.getByRole('alert')).toContainText('Name 192.0.2.1:9229 in the setting TROMIX_INSPECT');

  await runFleet('');
  await page.getByRole('button', { name: 'Look again' }).click();
  await page
    .getByRole('row', { name: /gateway/ })
    .getByRole('radio')
    .check();
  await page.getByRole('button', { name: 'Start recording' }).click();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByRole('region', { name: 'Recordings' }).getByRole('row').first()).toContainText(
    'cancelled'
  );
});

test('asks again before a heap dump that stops a process for long', async ({ page }) => {
  test.setTimeout(240_000);
  const full = spawn(
    process.execPath,
    [
      '-e',
      'const kept = []; for (let i = 0; i < 1_200_000; i++) kept.push({ i, next: null }); setInterval(() => kept.length, 50);'
    ],
    {
      env: {
        ...process.env,
        NODE_OPTIONS: `--inspect=127.0.0.1:${FLEET_PORT + 106}`,
        OTEL_SERVICE_NAME: 'ledgers'
      },
      stdio: 'ignore'
    }
  );
  try {
    await page.goto(`${LIVE.url}/recorder`);
    await tryUntil(async (patience) => {
      await page.getByRole('button', { name: 'Look again' }).click();
      await page
        .getByRole('row', { name: /ledgers/ })
        .getByRole('radio')
        .check(patience);
    });
    await page.getByRole('combobox', { name: /^record/ }).selectOption('heap');
    await page.getByRole('button', { name: 'Start recording' }).click();
    const dialog = page.getByRole('alertdialog', { name: 'Take this heap dump?' });
    await expect(dialog).toContainText(/in 1\s2\d\d\s\d{3} objects; counting them stopped it for about/, {
      timeout: 60_000
    });
    await dialog.getByRole('button', { name: 'Leave it' }).click();
    await expect(dialog).toBeHidden();
    await page.getByRole('button', { name: 'Start recording' }).click();
    await dialog.getByRole('button', { name: 'Take it' }).click({ timeout: 60_000 });
    const row = page
      .getByRole('region', { name: 'Recordings' })
      .getByRole('row')
      .filter({ hasText: 'ledgers' });
    await expect(row).toHaveCount(1);
    await expect(row.getByRole('link', { name: 'Open the dump' })).toBeVisible({ timeout: 60_000 });
    await expect(row).toContainText('The process was paused for');
  } finally {
    full.kill('SIGKILL');
  }
});

/** Chooses a process by its service and how it is to be recorded: one second of CPU samples. */
async function chooseForPlan(page: Page, service: RegExp): Promise<void> {
  await page.goto(`${LIVE.url}/recorder`);
  await page.getByRole('row', { name: service }).getByRole('radio').check();
  await page.getByLabel('for, seconds').fill('1');
}
const saved = (page: Page) =>
  page
    .getByRole('region', { name: 'Recordings' })
    .getByRole('row')
    .filter({ has: page.getByRole('link', { name: 'Open the profile' }) });

test('a plan records again and again, and keeps no more than it was told', async ({ page }) => {
  test.setTimeout(240_000);
  await runFleet('');
  await chooseForPlan(page, /pilots/);
  await page.getByLabel('when').selectOption('again and again');
  await page.getByLabel('every, minutes').fill('1');
  await page.getByLabel('keep').fill('1');
  await page.getByRole('button', { name: 'Make the plan' }).click();
  const plans = page.getByRole('region', { name: 'Plans' });
  await expect(plans).toContainText(/pilots|127\.0\.0\.1/);
  // Due at once, and again after a minute; of the two only the newer stays.
  const before = await saved(page).count();
  await expect(saved(page)).toHaveCount(before + 1, { timeout: 60_000 });
  const firstPath = await saved(page).first().getByRole('link').getAttribute('href');
  await expect(saved(page).first().getByRole('link')).not.toHaveAttribute('href', firstPath!, {
    timeout: 90_000
  });
  await expect(saved(page)).toHaveCount(before + 1, { timeout: 60_000 });
  await plans.getByRole('button', { name: 'End' }).click();
  await expect(plans).toBeHidden();
});
