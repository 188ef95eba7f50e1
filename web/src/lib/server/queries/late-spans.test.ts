import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
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
const { callTotals } = await import('./calls/call-totals');
const { railOf } = await import('./rail');

const DAY = 24 * 60 * MINUTE;
const NOW = Math.floor(Date.now() / DAY) * DAY + 9 * 60 * MINUTE;
const month = scopeFrom(new URLSearchParams({ last: '30d' }));
let trace = 1;
/** A request so many days ago, of 200 ms with three queries. */
const ago = (days: number): object =>
  request({ trace: trace++, at: NOW - days * DAY, ms: 200, queries: 3, release: '7.2' });

interface Figures {
  requests: number;
  inSeries: number;
  totalNs: number;
  calls: number;
  onRail: number;
}
async function figures(): Promise<Figures> {
  const overview = await overviewOf(month, NOW);
  const minutes =
    overview.series.length > 1 ? (overview.series[1].at - overview.series[0].at) / MINUTE : 1440;
  const calls = await callTotals(month, { fromUs: (NOW - 30 * DAY) * 1000, toUs: NOW * 1000 }, NOW, [
    'endpoint'
  ]);
  const rail = await railOf(month, NOW);
  return {
    requests: overview.rows[0].count,
    inSeries: Math.round(overview.series.reduce((sum, { count }) => sum + count * minutes, 0)),
    totalNs: overview.rows[0].totalNs,
    calls: calls[0].totals.calls,
    onRail: Math.round(rail.points.reduce((sum, { count }) => sum + count * rail.stepMinutes, 0))
  };
}
/** Of so many requests, all of which lie in bins that are over. */
const of = (requests: number): Figures => ({
  requests,
  inSeries: requests,
  totalNs: requests * 200e6,
  calls: requests * 3,
  onRail: requests
});

beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-late-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  writer = await openWriter(url);
  await sendRequests(
    writer,
    Array.from({ length: 26 }, (_, i) => ago(2 + i))
  );
});
afterAll(() => rm(folder, { recursive: true, force: true }));

describe('what is summed up over a long window', () => {
  it('is the same when it is asked again', async () => {
    expect(await figures()).toEqual(of(26));
    expect(await figures()).toEqual(of(26));
  });

  it('counts a request that comes for a day long past', async () => {
    await sendRequests(writer, [ago(12.5)]);
    expect(await figures()).toEqual(of(27));
  });

  it('counts one request once whose trace is booked again', async () => {
    const again = trace - 1;
    await sendRequests(writer, [
      request({ trace: again, at: NOW - 12.5 * DAY, ms: 200, queries: 3, release: '7.2' })
    ]);
    expect(await figures()).toEqual(of(27));
  });
});
