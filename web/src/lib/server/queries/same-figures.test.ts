import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { decodeTracesJson } from '@tromix/core/formats/otlp/traces';
import { inspectTraces, type InspectedTraces } from '@tromix/core/inspect/traces';
import { anySpans } from '@tromix/core/testing/any-trace';
import { scopeFrom, type Scope } from '$lib/scope';
import { resourceSpansOf, spansOfTrace } from '$lib/testing/resource-spans';
import { MINUTE, openWriter, RETENTION, sendRequests } from '$lib/testing/sent-requests';

/** A figure that stands on several views is the same on each, over random data; `inspect` says it of the same file. */
let folder: string;
let url: string;
vi.mock('../settings', () => ({
  settings: () => ({ databaseUrl: url, sourceFolders: [], retention: RETENTION })
}));
vi.mock('../workers', async () => (await import('$lib/testing/local-workers')).localWorkers(() => url));
const { overviewOf } = await import('./overview');
const { endpointOf } = await import('./endpoint');
const { requestsOf } = await import('./requests');
const { callsOf } = await import('./calls/calls');
const { findingsOf } = await import('./findings');
const { scopeWindow } = await import('$lib/scope');

const NOW = 1_700_001_000_000 - (1_700_001_000_000 % 3_600_000) + 1_800_000;
let inspected: InspectedTraces;

beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-same-figures-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  const writer = await openWriter(url);
  const sent = fc
    .sample(anySpans, { numRuns: 150, seed: 20_261_128 })
    .map((shapes, i) => spansOfTrace(shapes, i + 1, NOW - 25 * MINUTE + i * 9000 + (i % 11) * 173));
  const resourceSpans = sent.flatMap(resourceSpansOf);
  await sendRequests(writer, resourceSpans);
  // Root spans that came before the first entry span of their service are booked anew.
  await writer.settle(Date.now(), true);
  await writer.close();
  inspected = inspectTraces([decodeTracesJson(JSON.stringify({ resourceSpans }))], 0);
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const scopeOf = (query: Record<string, string>): Scope => scopeFrom(new URLSearchParams(query));
const WINDOWS: Record<string, string>[] = [
  {},
  { from: String(NOW - 20 * MINUTE + 12_345), to: String(NOW - 9 * MINUTE - 4321) },
  { from: String(NOW - 14 * MINUTE), to: String(NOW - 13 * MINUTE) }
];

describe.each(WINDOWS)('in the window %o', (time) => {
  it('each endpoint: Overview, Endpoint and Requests', async () => {
    const { rows } = await overviewOf(scopeOf(time), NOW);
    expect(rows.length).toBeGreaterThan(0);
    for (const row of rows) {
      const scope = scopeOf({ ...time, service: row.service, endpoint: row.name });
      const endpoint = (await endpointOf(scope, 'tenth', NOW))!;
      const requests = await requestsOf(scope, { sort: 'duration', groupBy: '', columns: [] }, NOW);
      const overview = await overviewOf(scope, NOW);
      const figures = [row.count, row.failed, row.p50Ns, row.p95Ns];
      expect([endpoint.count, endpoint.failed, endpoint.p50Ns, endpoint.p95Ns]).toEqual(figures);
      expect([requests.count, requests.failed, requests.p50Ns, requests.p95Ns]).toEqual(figures);
      expect(requests.counted).toBe(row.count);
      expect([endpoint.perMinute, endpoint.meanNs]).toEqual([row.perMinute, row.meanNs]);
      expect(overview.rows).toMatchObject([{ count: row.count, perMinute: row.perMinute, p95Ns: row.p95Ns }]);
      expect(endpoint.zones).toEqual(row.zones);
      const { satisfied, tolerating, frustrated, score } = requests.apdex;
      expect({ satisfied, tolerating, frustrated }).toEqual(row.zones);
      expect(score).toBeCloseTo(endpoint.apdex, 12);
      expect(endpoint.ledger).toEqual(row.ledger);
    }
  });

  it('calls: Overview and Calls, their sum and their parts', async () => {
    const { after, all } = await overviewOf(scopeOf(time), NOW);
    const page = await callsOf(scopeOf(time), { rows: 'statement', kind: '', origin: undefined }, NOW);
    const sum = (of: (row: (typeof page.rows)[number]) => number): number =>
      page.rows.reduce((total, row) => total + of(row), 0);
    expect(sum(({ calls }) => calls)).toBe(page.all.calls);
    expect(after.count).toBe(all.count);
    // Calls of a request count in each request around it; calls by what was asked count once.
    expect(Math.round(after.callsPerRequest * after.count)).toBeGreaterThanOrEqual(page.all.calls);
  });

  it('no share is over 100 %, and what is found is found in as many requests as list it', async () => {
    const scope = scopeOf(time);
    const { all } = await overviewOf(scope, NOW);
    const found = await findingsOf(scope, scopeWindow(scope, NOW), NOW, all.exclusiveNs, {
      limit: 200,
      aside: true
    });
    for (const { rule, service, endpoint, share, requests, sentence } of found) {
      expect(share).toBeLessThanOrEqual(1);
      expect(sentence).not.toMatch(/\b(?:1\d\d|[2-9]\d\d) % of/);
      const list = await requestsOf(
        scopeOf({ ...time, service, endpoint, finding: rule }),
        { sort: 'duration', groupBy: '', columns: [] },
        NOW
      );
      if (['one-host', 'since-release', 'cold-start'].includes(rule)) continue;
      expect(list.count).toBeGreaterThanOrEqual(requests);
    }
  });
});

it('the command line says of the same file what Overview says', async () => {
  const { rows } = await overviewOf(scopeOf({}), NOW);
  expect(inspected.endpoints).toHaveLength(rows.length);
  for (const { service, endpoint, count, failed, p50Ns, p95Ns, apdex } of inspected.endpoints) {
    const row = rows.find((one) => one.service === service && one.name === endpoint)!;
    expect([row.count, row.failed, row.p50Ns, row.p95Ns]).toEqual([count, failed, p50Ns, p95Ns]);
    expect(row.zones).toMatchObject({ satisfied: apdex.satisfied, frustrated: apdex.frustrated });
  }
});
