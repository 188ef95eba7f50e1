import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { createClient } from '@libsql/client';
import { afterAll, beforeAll, expect, it, vi } from 'vitest';
import { scopeFrom } from '$lib/scope';
import { MINUTE, openWriter, request, RETENTION, sendRequests } from '$lib/testing/sent-requests';
import type { Writer } from '../ingest/writer';

let folder: string;
let url: string;
let writer: Writer;
vi.mock('../settings', () => ({
  settings: () => ({ databaseUrl: url, sourceFolders: [], retention: RETENTION })
}));
vi.mock('../workers', async () => (await import('$lib/testing/local-workers')).localWorkers(() => url));
const { overviewOf } = await import('./overview');

// The end of an hour: all of it is one bin, in which a finding comes, goes and comes again.
const NOW = Math.floor(Date.now() / (60 * MINUTE)) * 60 * MINUTE;
const hour = scopeFrom(new URLSearchParams({ last: '1h' }));
let trace = 1;

/** Thirty requests of one release within a minute. @param queries each of them alike; 30 are a finding */
const minute = (ago: number, release: string, queries: number): Promise<void> =>
  sendRequests(
    writer,
    Array.from({ length: 30 }, (_, i) =>
      request({ trace: trace++, at: NOW - ago * MINUTE + i * 1000, ms: 400, queries, release })
    )
  );
const fixed = async (): Promise<object[]> => (await overviewOf(hour, NOW)).fixed;

beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-gone-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  writer = await openWriter(url);
  // There was a load run: what it caused is told apart.
  const client = createClient({ url });
  await client.execute(
    "INSERT INTO load_runs (key, name, state, started_at_us, plan) VALUES ('1f', 'berths', 'ended', 1, '{}')"
  );
  client.close();
});
afterAll(() => rm(folder, { recursive: true, force: true }));

it('credits the release that no longer shows a finding', async () => {
  await minute(50, '7.2', 30);
  await minute(40, '7.3', 0);
  expect(await fixed()).toMatchObject([{ release: '7.3', after: 30, before: 30, found: 30 }]);
});

it('credits none once the earlier release is back with it', async () => {
  await minute(30, '7.2', 30);
  expect(await fixed()).toEqual([]);
});

it('counts from then on where the later release serves again', async () => {
  await minute(20, '7.3', 0);
  expect(await fixed()).toMatchObject([{ release: '7.3', after: 30, before: 60, found: 60 }]);
});

it('credits none where it is found in the newest minute there is', async () => {
  await minute(1, '7.2', 30);
  expect(await fixed()).toEqual([]);
});
