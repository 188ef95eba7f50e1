import { gzipSync } from 'node:zlib';
import { DEMO } from './servers';
import { expect, test, type Page } from '@playwright/test';
import { EMPTY } from './servers';
import { tryUntil } from './try-until';

test.use({ baseURL: EMPTY.url });

const node = (id: number, functionName: string, children: number[] = []) => ({
  id,
  callFrame: {
    functionName,
    scriptId: '1',
    url: functionName.startsWith('(') ? '' : 'file:///quay/plan.js',
    lineNumber: 7,
    columnNumber: 0
  },
  children
});
const profile = JSON.stringify({
  nodes: [node(1, '(root)', [2, 3]), node(2, '__proto__'), node(3, '<img src=x onerror="window.broken=1">')],
  startTime: 0,
  endTime: 40_000,
  samples: Array.from({ length: 40 }, (_, i) => 2 + (i % 2)),
  timeDeltas: Array.from({ length: 40 }, () => 1000)
});

async function choose(page: Page, name: string, content: string | Buffer): Promise<void> {
  await page.goto('/evidence');
  await page
    .getByLabel('Evidence file')
    .setInputFiles({ name, mimeType: 'application/octet-stream', buffer: Buffer.from(content) });
}

test('a profile is chosen, stored, opened, saved and removed; its names are text', async ({
  page,
  request
}) => {
  await choose(page, 'CPU.20261123.101010.4121.0.001.cpuprofile', gzipSync(profile));
  await expect(page).toHaveURL(/\/profiles\/[0-9a-f]{64}/);
  await expect(page.getByRole('option', { name: /__proto__/ })).toBeVisible();
  await expect(page.getByRole('option').filter({ hasText: '<img src=x' })).toBeVisible();
  expect(await page.evaluate(() => (window as unknown as { broken?: number }).broken)).toBeUndefined();
  const id = /\/profiles\/([0-9a-f]{64})/.exec(page.url())![1];
  expect((await (await request.get(`/api/evidence/${id}/content`)).body()).equals(gzipSync(profile))).toBe(
    true
  );
  await page.goto('/evidence');
  // The process id stands in the name Node gives its profiles.
  await expect(page.getByRole('row').filter({ hasText: '4121' })).toBeVisible();
  page.on('dialog', (dialog) => void dialog.accept());
  await page.getByRole('button', { name: /^Remove CPU/ }).click();
  await expect(page.getByText('No file has been loaded yet')).toBeVisible();
  expect((await request.get(`/api/evidence/${id}/content`)).status()).toBe(404);
});

for (const [name, content, words] of [
  ['empty', '', /is empty/],
  ['notes.txt', 'nothing of the kind', /Expected OTLP traces/],
  ['half.cpuprofile', profile.slice(0, 200), /does not parse/],
  ['half.gz', gzipSync(profile).subarray(0, 60), /gzip data/],
  ['other.json', '{"nodes": 5}', /no list of nodes/]
] as const) {
  test(`${name} is refused in words and leaves nothing behind`, async ({ page }) => {
    await choose(page, name, content as string);
    await expect(page.getByRole('alert').filter({ hasText: name })).toContainText(words);
    await expect(page.getByText('No file has been loaded yet')).toBeVisible();
  });
}

test('a file of traces is taken in', async ({ page }) => {
  const span = {
    traceId: '9'.repeat(32),
    spanId: '8'.repeat(16),
    name: 'from a file',
    kind: 2,
    startTimeUnixNano: `${Date.now() - 5000}000000`,
    endTimeUnixNano: `${Date.now() - 4000}000000`
  };
  await choose(page, 'traces.json', JSON.stringify({ resourceSpans: [{ scopeSpans: [{ spans: [span] }] }] }));
  await expect(page.getByText(/1 spans? of traces.json/)).toBeVisible();
  await tryUntil(async (patience) => {
    await page.goto('/requests');
    await expect(page.getByRole('link', { name: /from a file/ })).toBeVisible(patience);
  });
});

test('a file sent as bytes without a content type is taken in', async () => {
  const body = new TextEncoder().encode('main;load 30\nmain;sort 70\n');
  const sent = await fetch(`${DEMO.url}/api/evidence?name=bytes`, { method: 'POST', body });
  expect(sent.status).toBe(201);
  const { id, kind } = (await sent.json()) as { id: string; kind: string };
  expect(kind).toBe('profile');
  await fetch(`${DEMO.url}/api/evidence/${id}`, { method: 'DELETE' });
});

test('an open profile is not read anew when requests come in', async ({ page, request }) => {
  const answer = await request.post('/api/evidence?service=boards&name=folded', {
    data: Buffer.from('main;load 10\nmain;draw 30\n')
  });
  const { id } = (await answer.json()) as { id: string };
  let workers = 0;
  page.on('worker', () => workers++);
  await page.goto(`/profiles/${id}`);
  await expect(page.getByTestId('flame')).toBeVisible();
  const start = Date.now() - 1000;
  for (const digit of ['a', 'b']) {
    const loaded = page.waitForResponse(/__data\.json.*invalidated=1/);
    const span = {
      traceId: `51${digit.repeat(30)}`,
      spanId: `51${digit.repeat(14)}`,
      name: 'board',
      kind: 2,
      startTimeUnixNano: `${start}000000`,
      endTimeUnixNano: `${start + 5}000000`
    };
    const sent = await request.post('/v1/traces', {
      data: { resourceSpans: [{ scopeSpans: [{ spans: [span] }] }] }
    });
    expect(sent.status()).toBe(200);
    await loaded;
  }
  await expect(page.getByTestId('flame')).toBeVisible();
  expect(workers).toBe(1);
});
