import { readFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import { expect, test, type Page } from '@playwright/test';
import { DEMO } from './servers';
import { tryUntil } from './try-until';

test.use({ baseURL: DEMO.url });

const recorded = (i: number): Buffer =>
  gunzipSync(readFileSync(new URL(`../../workload/recordings/threads-pilots-${i}.txt.gz`, import.meta.url)));
const fixture = (name: string): Buffer =>
  readFileSync(new URL(`../../core/fixtures/threads/${name}.txt`, import.meta.url));

/** Uploads files as a script would, and removes them when the work with them is done. */
async function withDumps(
  page: Page,
  files: Buffer[],
  query: string,
  work: (ids: string[]) => Promise<void>
): Promise<void> {
  const ids: string[] = [];
  for (const data of files) {
    const answer = await page.request.post(`/api/evidence?${query}`, {
      data,
      headers: { 'content-type': 'text/plain' }
    });
    expect(answer.status()).toBe(201);
    ids.push(((await answer.json()) as { id: string }).id);
  }
  try {
    await work(ids);
  } finally {
    for (const id of ids) await page.request.delete(`/api/evidence/${id}`);
  }
}

async function openDemo(page: Page): Promise<void> {
  await page.goto('/threads');
  await page.getByRole('link', { name: 'Show who blocks whom' }).click();
  await expect(page.getByRole('button', { name: /roster-sync/ }).first()).toBeVisible();
}

test('from three dropped dumps to the line that holds up everyone', async ({ page }) => {
  await page.goto('/threads?service=nobody');
  // The same dumps at another place of the ground: a byte more, so that they are other files than the demo’s.
  await page.getByLabel('Evidence file').setInputFiles(
    [1, 2, 3].map((i) => ({
      name: `dropped-${i}.txt`,
      mimeType: 'text/plain',
      buffer: Buffer.concat([recorded(i), Buffer.from('\n')])
    }))
  );
  await expect(page).toHaveURL(/\/threads\/[0-9a-f]{64}/);
  const ids: string[] = [];
  try {
    const reading = page.getByRole('complementary', { name: 'Reading' });
    await expect(page.getByText('3 dumps, 5 s apart')).toBeVisible();
    await expect(reading).toContainText(
      '16 threads wait, directly or behind others, for a lock (PilotLedger) held by roster-sync-1, which stands at RosterSync.post (Pilots.java:74), writing to a socket while it holds it.'
    );
    await reading.getByRole('button', { name: 'Show its stack' }).first().click();
    const stack = page.getByRole('region', { name: 'Selected thread' });
    await expect(stack).toContainText('RosterSync.post');
    await expect(stack).toContainText(/holds 0x…\w+ PilotLedger/);
    // Along the chain by the keyboard: right to who waits, left back to who holds.
    await page.keyboard.press('ArrowRight');
    await expect(stack).toContainText('wants');
    await page.keyboard.press('ArrowLeft');
    await expect(stack).toContainText('roster-sync-1');
    // News of other evidence leave what is chosen as it is.
    const news = page.waitForResponse(/__data\.json/);
    const sent = await page.request.post('/api/evidence?name=dropped-news.txt', { data: 'harbour;tide 3\n' });
    ids.push(/[0-9a-f]{64}/.exec(await sent.text())![0]);
    await news;
    await expect(page).toHaveURL(/thread=\d+/);
    await expect(stack).toContainText('roster-sync-1');
    // It did not move, and did not compute.
    const row = page
      .getByRole('grid', { name: 'Threads across the dumps' })
      .getByRole('row')
      .filter({ hasText: 'roster-sync-1' });
    await expect(row).toContainText('stuck');
    await expect(row).not.toContainText('computes');
  } finally {
    // Among all there are, dumps of that day are far down.
    await page.goto('/evidence?where=what%5E%3Ddropped');
    await expect(page.getByRole('link', { name: /^dropped-\d/ })).toHaveCount(3);
    for (const link of await page.getByRole('link', { name: /^dropped-\d/ }).all())
      ids.push(/threads\/([0-9a-f]{64})/.exec((await link.getAttribute('href'))!)![1]);
    for (const id of ids) await page.request.delete(`/api/evidence/${id}`);
  }
  expect(ids).toHaveLength(4);
});

test('pools, states, search, other views and dumps stand in the address', async ({ page }) => {
  await openDemo(page);
  await page.getByRole('button', { name: /Pool: every pool/ }).click();
  await page.getByRole('menuitemradio', { name: /http-worker-\*/ }).click();
  await expect(page).toHaveURL(/pool=http-worker/);
  await expect(page.getByText(/1[46] threads of \d+/)).toBeVisible();
  const groups = page.getByRole('grid', { name: 'Stack groups' });
  await expect(groups.getByRole('row').filter({ hasText: 'Http.entry' })).toContainText('9');
  await page.getByRole('link', { name: 'Threads', exact: true }).last().click();
  await expect(page.getByRole('table', { name: 'Threads' }).getByRole('row').nth(1)).toContainText(
    'http-worker'
  );
  await page.getByRole('link', { name: 'Pools' }).click();
  await expect(page.getByRole('table', { name: 'Pools' }).getByRole('row').nth(1)).toContainText(
    'http-worker-*'
  );
  await page.getByRole('link', { name: 'Merged stacks' }).click();
  await expect(page.getByTestId('flame')).toBeVisible();
  await page
    .getByRole('option', { name: /Http.entry/ })
    .first()
    .click();
  await expect(page).toHaveURL(/frame=/);
  await page.goto(page.url());
  await expect(page.getByRole('option', { name: /Http.entry/, selected: true }).first()).toBeVisible();
  await page.goto(page.url().replace('show=merged', 'show=pools'));
  await expect(page.getByRole('table', { name: 'Pools' })).toBeVisible();
  await page.getByRole('button', { name: /Dump: / }).click();
  await page.getByRole('menuitemradio').first().click();
  await expect(page).toHaveURL(/dump=1/);
  await page.getByLabel('Search names and frames').fill('no such frame');
  await expect(page.getByText('Your filters leave no threads.').first()).toBeVisible();
});

test('the picture, the groups and the reading are saved as open formats', async ({ page }) => {
  await openDemo(page);
  for (const [name, file, content] of [
    ['Picture, SVG', 'waits-for.svg', /<svg xmlns[\s\S]*PilotLedger[\s\S]*roster-sync-1/],
    ['Reading, text', 'threads.txt', /wait, directly or behind others/]
  ] as const) {
    await page.getByRole('button', { name: 'Export' }).click();
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('menuitem', { name }).click()
    ]);
    expect(download.suggestedFilename()).toBe(file);
    expect(readFileSync(await download.path(), 'utf8')).toMatch(content);
  }
});

test('a deadlock is drawn as a circle, and its sentence names the order of the locks', async ({ page }) => {
  await withDumps(page, [fixture('deadlock-locks-l')], 'service=locks', async ([id]) => {
    await page.goto(`/threads/${id}`);
    await expect(page.getByRole('complementary', { name: 'Reading' })).toContainText(
      /3 threads are deadlocked and will wait for ever: quay-0 holds ReentrantLock \S+ and waits for ReentrantLock/
    );
    for (const name of ['quay-0', 'quay-1', 'quay-2'])
      await expect(page.locator('[data-box]').filter({ hasText: name })).toBeVisible();
    await page.locator('[data-box]').filter({ hasText: 'quay-0' }).click();
    // In a circle, left is who it waits for.
    await page.keyboard.press('ArrowLeft');
    await expect(page.getByRole('region', { name: 'Selected thread' })).toContainText('quay-1');
    await page.getByRole('link', { name: 'About this rule' }).first().click();
    await expect(page.getByRole('heading', { name: 'Deadlock' })).toBeVisible();
  });
});

test('names are text, whatever they hold; locks nobody holds are said so', async ({ page }) => {
  await withDumps(page, [fixture('names'), fixture('waits')], 'service=odd', async ([names, waits]) => {
    const errors: string[] = [];
    page.on('pageerror', (error) => errors.push(error.message));
    await page.goto(`/threads/${names}?show=threads`);
    await expect(
      page.getByRole('table', { name: 'Threads' }).getByText('<img src=x onerror=alert(1)>')
    ).toBeVisible();
    await page.goto(`/threads/${waits}`);
    await expect(page.getByRole('button', { name: /held by no thread/ }).first()).toBeVisible();
    expect(errors).toEqual([]);
  });
});

test('a request leads to the dump that was taken while it ran, at the thread that served it', async ({
  page
}) => {
  const id = (length: number): string => '5eed'.padEnd(length, '0');
  const began = Date.now() - 60_000;
  await withDumps(
    page,
    [Buffer.concat([recorded(2), Buffer.from('\n\n')])],
    `service=rowers&host=slip-1&startedAtUs=${(began + 500) * 1000}`,
    async ([dump]) => {
      const text = (key: string, stringValue: string): object => ({ key, value: { stringValue } });
      const answer = await page.request.post('/v1/traces', {
        data: {
          resourceSpans: [
            {
              resource: { attributes: [text('service.name', 'rowers'), text('host.name', 'slip-1')] },
              scopeSpans: [
                {
                  spans: [
                    {
                      traceId: id(32),
                      spanId: id(16),
                      name: 'POST /roster',
                      kind: 2,
                      startTimeUnixNano: `${began}000000`,
                      endTimeUnixNano: `${began + 2000}000000`,
                      attributes: [text('thread.name', 'http-worker-3')]
                    }
                  ]
                }
              ]
            }
          ]
        }
      });
      expect(answer.status()).toBe(200);
      await tryUntil(async (patience) => {
        await page.goto(`/requests/${id(32)}/${id(16)}`);
        await expect(page.getByText('was taken while this ran')).toBeVisible(patience);
      });
      await page.getByRole('link', { name: 'http-worker-3 in the dump' }).click();
      await expect(page).toHaveURL(new RegExp(`/threads/${dump}`));
      await expect(page.getByRole('region', { name: 'Selected thread' })).toContainText(
        'http-worker-3 · blocked'
      );
    }
  );
});

test('what is no dump, or cut off, is worded', async ({ page }) => {
  const refused = await page.request.post('/api/evidence', {
    data: Buffer.from('Full thread dump of nothing:\n'),
    headers: { 'content-type': 'text/plain' }
  });
  expect(refused.status()).toBe(400);
  expect(((await refused.json()) as { message: string }).message).toContain('no thread was found');
  const cut = fixture('chain').subarray(0, 9000);
  await withDumps(page, [cut], 'service=cut', async ([id]) => {
    await page.goto(`/threads/${id}`);
    await expect(page.getByText(/it may be cut off/)).toBeVisible();
  });
});

test('threads of a package, and daemons that wait for work, are one choice away', async ({ page }) => {
  await openDemo(page);
  const listed = page.getByRole('table', { name: 'Threads' });
  await page.getByRole('link', { name: 'Threads', exact: true }).last().click();
  await page.getByRole('button', { name: /Package: in any package/ }).click();
  await page.getByRole('menuitemradio', { name: /^quillhaven\.pilots/ }).click();
  await expect(page).toHaveURL(/package=quillhaven\.pilots/);
  await expect(page.getByText(/\d+ threads of \d+/)).toBeVisible();
  await expect(listed.getByRole('row').filter({ hasText: 'roster-sync-1' })).toBeVisible();
  await page.goBack();
  await expect(page.getByText(/\d+ threads of \d+/)).toBeHidden();
  const daemons = page.getByRole('button', { name: /idle daemon/ });
  const before = Number(await listed.getAttribute('aria-rowcount'));
  const folded = parseInt((await daemons.textContent())!, 10);
  await daemons.click();
  await expect(page).toHaveURL(/daemons=1/);
  await expect(listed).toHaveAttribute('aria-rowcount', String(before + folded));
});
