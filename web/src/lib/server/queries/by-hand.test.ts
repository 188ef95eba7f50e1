import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import fc from 'fast-check';
import { quantile } from 'd3-array';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { maskSpan } from '@tromix/core/calls/mask';
import { groupBy } from '@tromix/core/group-by';
import { findInRequest } from '@tromix/core/findings/request-findings';
import { ACCOUNTS, type Ledger } from '@tromix/core/trace/account';
import { accountTrace } from '@tromix/core/trace/requests';
import { buildTree } from '@tromix/core/trace/tree';
import { anySpans } from '@tromix/core/testing/any-trace';
import { scopeFrom, type Scope } from '$lib/scope';
import { resourceSpansOf, spansOfTrace } from '$lib/testing/resource-spans';
import { MINUTE, openWriter, RETENTION, sendRequests } from '$lib/testing/sent-requests';

/** What every list and overview says of random traces, against the same counted by hand from the traces themselves. */
let folder: string;
let url: string;
vi.mock('../settings', () => ({
  settings: () => ({ databaseUrl: url, sourceFolders: [], retention: RETENTION })
}));
vi.mock('../workers', async () => (await import('$lib/testing/local-workers')).localWorkers(() => url));
const { overviewOf } = await import('./overview');
const { requestsOf } = await import('./requests');
const { callsOf } = await import('./calls/calls');
const { railOf } = await import('./rail');

const NOW = 1_700_001_000_000 - (1_700_001_000_000 % 3_600_000) + 1_800_000;
/** A request as it is known without any database. */
interface ByHand {
  service: string;
  endpoint: string;
  host: string;
  failed: boolean;
  durationNs: number;
  exclusiveNs: number;
  ledger: Ledger;
  rules: Set<string>;
}
const all: ByHand[] = [];
/** Calls of each group made inside any request. */
const calls = new Map<string, { calls: number; totalNs: number }>();

beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-by-hand-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  const writer = await openWriter(url);
  // The same each time: what is compared is many, not surprising.
  const traces = fc.sample(anySpans, { numRuns: 120, seed: 20_261_127 });
  const sent = traces.map((shapes, i) =>
    spansOfTrace(shapes, i + 1, NOW - 25 * MINUTE + i * 10_000 + (i % 7) * 137)
  );
  await sendRequests(writer, sent.flatMap(resourceSpansOf));
  await writer.close();
  for (const spans of sent) {
    const masked = spans.map((raw) => maskSpan(raw, { hashKey: 1, keepLiteralsOf: new Set() }));
    const trace = accountTrace(buildTree(masked));
    for (const request of trace.requests) {
      // Both services send entry spans: their other roots serve nobody.
      if (request.kind !== 'request') continue;
      const { resource } = trace.tree.nodes[request.node].span;
      all.push({
        ...{ service: resource.service, endpoint: request.endpoint, host: resource.host },
        ...{ failed: request.failed, durationNs: request.durationNs, exclusiveNs: request.exclusiveNs },
        ledger: request.ledger,
        rules: new Set(findInRequest(trace, request).map(({ rule }) => rule))
      });
    }
    trace.tree.nodes.forEach(({ call }, node) => {
      if (!call || trace.byNode.get(trace.innermost[node])?.kind !== 'request') return;
      const key = `${call.kind} ${call.fingerprint}`;
      const known = calls.get(key) ?? { calls: 0, totalNs: 0 };
      known.calls++;
      known.totalNs += trace.tree.end[node] - trace.tree.start[node];
      calls.set(key, known);
    });
  }
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const scopeOf = (query: Record<string, string>): Scope => scopeFrom(new URLSearchParams(query));
const sum = <T>(items: readonly T[], of: (item: T) => number): number =>
  items.reduce((total, item) => total + of(item), 0);
describe('the overview', () => {
  const KEYS = {
    endpoints: ({ service, endpoint }: ByHand) => `${service} ${endpoint}`,
    services: ({ service }: ByHand) => ` ${service}`,
    hosts: ({ host }: ByHand) => ` ${host}`
  };
  it.each(Object.keys(KEYS) as (keyof typeof KEYS)[])(
    'has every one of the %s with its sums',
    async (kind) => {
      const overview = await overviewOf(scopeOf({}), NOW, { kind, against: 'auto' });
      const byHand = groupBy(all, KEYS[kind]);
      expect(new Set(overview.rows.map(({ service, name }) => `${service} ${name}`))).toEqual(
        new Set(byHand.keys())
      );
      for (const row of overview.rows) {
        const of = byHand.get(`${row.service} ${row.name}`)!;
        expect(row).toMatchObject({
          count: of.length,
          failed: of.filter(({ failed }) => failed).length,
          totalNs: sum(of, ({ durationNs }) => durationNs),
          exclusiveNs: sum(of, ({ exclusiveNs }) => exclusiveNs)
        });
        expect(row.share).toBeCloseTo(row.exclusiveNs / sum(all, ({ exclusiveNs }) => exclusiveNs), 9);
        // Within the 1 % of the sketch, of the values around the rank: few requests lie far apart.
        const sorted = of.map(({ durationNs }) => durationNs).sort((a, b) => a - b);
        const at = Math.floor((sorted.length - 1) / 2);
        expect(row.p50Ns).toBeGreaterThanOrEqual(sorted[at] * 0.99 - 1000);
        expect(row.p50Ns).toBeLessThanOrEqual((sorted[at + 1] ?? sorted[at]) * 1.01 + 1000);
      }
      expect(overview.all).toMatchObject({
        count: all.length,
        exclusiveNs: sum(all, ({ exclusiveNs }) => exclusiveNs)
      });
    }
  );
  it('tells for each endpoint the accounts of its requests, and over time each account once', async () => {
    const { rows, series, resolution } = await overviewOf(scopeOf({}), NOW);
    const byHand = groupBy(all, KEYS.endpoints);
    for (const row of rows)
      for (const account of ACCOUNTS)
        expect(row.ledger[account]).toBe(
          sum(byHand.get(`${row.service} ${row.name}`)!, ({ ledger }) => ledger[account])
        );
    expect(resolution).toBe('minute');
    expect(sum(series, ({ count }) => count)).toBe(all.length);
  });
  it('counts on the rail what it counts in the rows', async () => {
    const rail = await railOf(scopeOf({}), NOW);
    expect(Math.round(sum(rail.points, ({ count }) => count * rail.stepMinutes))).toBe(all.length);
  });
});

describe('the search over requests', () => {
  const condition = fc.record(
    {
      service: fc.constantFrom('berths', 'tides', 'nobody'),
      host: fc.constantFrom('quay-2', 'quay-3'),
      endpoint: fc.constantFrom('n0', 'n1', '(missing parent)'),
      slower: fc.integer({ min: 0, max: 600 }).map(String),
      faster: fc.integer({ min: 0, max: 600 }).map(String),
      status: fc.constantFrom('failed', 'ok'),
      finding: fc.constantFrom('one-slow-call', 'blind-stretch', 'could-run-together', 'query-per-row')
    },
    { requiredKeys: [] }
  );
  const matches = (query: Partial<Record<string, string>>) => (one: ByHand) =>
    (!query.service || one.service === query.service) &&
    (!query.host || one.host === query.host) &&
    (!query.endpoint || one.endpoint === query.endpoint) &&
    (!query.slower || one.durationNs > Number(query.slower) * 1e6) &&
    (!query.faster || one.durationNs <= Number(query.faster) * 1e6) &&
    (!query.status || one.failed === (query.status === 'failed')) &&
    (!query.finding || one.rules.has(query.finding));
  const choice = { sort: 'duration' as const, groupBy: '', columns: [] };

  it('counts what matches any conditions, with exact percentiles', async () => {
    await fc.assert(
      fc.asyncProperty(condition, async (query) => {
        const list = await requestsOf(scopeOf(query as Record<string, string>), choice, NOW);
        const found = all.filter(matches(query));
        expect([list.count, list.failed]).toEqual([
          found.length,
          found.filter(({ failed }) => failed).length
        ]);
        expect(list.rows.map(({ durationNs }) => durationNs)).toEqual(
          found
            .map(({ durationNs }) => durationNs)
            .sort((a, b) => b - a)
            .slice(0, 1000)
        );
        expect(sum(list.series, ({ count }) => count)).toBe(found.length);
        if (found.length === 0) return;
        // Reference: d3-array, which interpolates between ranks likewise.
        for (const [share, value] of [
          [0.5, list.p50Ns],
          [0.95, list.p95Ns],
          [0.99, list.p99Ns]
        ])
          expect(value).toBeCloseTo(
            quantile(found, share, ({ durationNs }) => durationNs)!,
            3
          );
      }),
      { numRuns: 150 }
    );
  });
  it('groups by service, host, endpoint and status with the sums of each', async () => {
    const of: Record<string, (one: ByHand) => string> = {
      service: ({ service }) => service,
      host: ({ host }) => host
    };
    for (const [by, key] of Object.entries(of)) {
      const { groups } = await requestsOf(scopeOf({}), { ...choice, groupBy: by }, NOW);
      const byHand = groupBy(all, key);
      expect(new Map(groups!.map(({ value, count, failed }) => [value, [count, failed]]))).toEqual(
        new Map(
          [...byHand].map(([value, list]) => [
            value,
            [list.length, list.filter(({ failed }) => failed).length]
          ])
        )
      );
      expect(sum(groups!, ({ share }) => share)).toBeCloseTo(1, 9);
    }
  });
});

describe('calls', () => {
  it('are every call made inside a request, by what was asked', async () => {
    const page = await callsOf(scopeOf({}), { rows: 'statement', kind: '', origin: undefined }, NOW);
    const found = new Map(page.rows.map((row) => [`${row.detail} ${row.name}`, row]));
    expect(new Set(found.keys())).toEqual(new Set(calls.keys()));
    for (const [key, byHand] of calls) {
      expect([key, found.get(key)!.calls]).toEqual([key, byHand.calls]);
      expect([key, found.get(key)!.totalNs]).toEqual([key, byHand.totalNs]);
    }
  });
});
