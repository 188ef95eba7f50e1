import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { decodeTracesJson } from '@tromix/core/formats/otlp/traces';
import { compareBatches } from '@tromix/core/compare/compared-batches';
import { quantiles } from '@tromix/core/stats/percentile';
import { comparedQuery, comparedScopesFrom, LEAVABLES } from '$lib/compared-scopes';
import { scopeFrom, type Scope } from '$lib/scope';
import { openDatabase } from '$lib/server/db/client';
import { MINUTE, openWriter, request, RETENTION, sendRequests } from '$lib/testing/sent-requests';

/** Two releases of ten minutes each: the second asks row by row, on one host more than the other. */
let folder: string;
let url: string;
vi.mock('../../settings', () => ({
  settings: () => ({ databaseUrl: url, sourceFolders: [], retention: RETENTION })
}));
vi.mock('../../workers', async () => (await import('$lib/testing/local-workers')).localWorkers(() => url));
const { comparedSides } = await import('./compared-sides');
const { everythingElse } = await import('./everything-else');
const { presetsOf, slowAgainstNormal } = await import('./presets');
const { storedSide } = await import('./stored-side');

const NOW = 1_700_001_000_000 - (1_700_001_000_000 % 3_600_000) + 2_400_000;
const START = NOW - 24 * MINUTE;
const PHASES = [
  { release: '7.2', ms: 60, queries: 2 },
  { release: '7.3', ms: 400, queries: 30 }
];
const EACH = 60;
const sent = PHASES.map((phase, p) =>
  Array.from({ length: EACH }, (_, i) =>
    request({
      ...phase,
      ms: phase.ms + (i % 7),
      trace: 1 + p * EACH + i,
      at: START + p * 11 * MINUTE + i * 9000,
      host: i % 3 === 0 ? 'quay-3' : 'quay-2',
      failed: i % 10 === 0
    })
  )
);

/** More than are known one by one, nearly all of which take the same time. */
const [ALIKE, SLOW] = [400, 40];
const alike = Array.from({ length: ALIKE + SLOW }, (_, i) =>
  request({
    ms: i < ALIKE ? 450 : 2000,
    trace: 1000 + i,
    at: START + 22 * MINUTE + i * 100,
    route: '/tide'
  })
);

beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-sides-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  const writer = await openWriter(url);
  await sendRequests(writer, sent.flat());
  await sendRequests(writer, alike);
  await writer.close();
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const scopeOf = (query: Record<string, string>): Scope =>
  scopeFrom(new URLSearchParams({ service: 'berths', endpoint: 'GET /plan', ...query }));
const within = (phase: number): Record<string, string> => ({
  from: String(START + phase * 11 * MINUTE),
  to: String(START + phase * 11 * MINUTE + 10 * MINUTE)
});
const sides = { before: scopeOf(within(0)), after: scopeOf(within(1)) };

describe('two sides from the database', () => {
  it('are those of the same traces read as files', async () => {
    const { compared, durationsNs } = await comparedSides(sides, [], NOW);
    const batches = sent.map((resourceSpans) => [decodeTracesJson(JSON.stringify({ resourceSpans }))]);
    const [{ comparison }] = compareBatches(
      { before: batches[0], after: batches[1] },
      { resamples: 10 }
    ).endpoints;
    expect(durationsNs.after).toHaveLength(EACH);
    for (const by of ['part', 'account'] as const) {
      const plain = ({ lines }: (typeof compared.ledgers)['part']): unknown =>
        lines
          .map(({ parts, differenceNs, byHowOftenNs, perRequest, clear }) => ({
            name: [parts.before?.name, parts.after?.name],
            calls: [perRequest.before.calls, perRequest.after.calls],
            differenceNs: Math.round(differenceNs),
            byHowOftenNs: Math.round(byHowOftenNs),
            clear
          }))
          .sort((a, b) => (String(a.name) < String(b.name) ? -1 : 1));
      expect(plain(compared.ledgers[by])).toEqual(plain(comparison.ledgers[by]));
    }
    expect(compared.findings).toEqual(comparison.findings);
    expect(compared.figures).toEqual(comparison.figures);
    expect(compared.failed).toEqual(comparison.failed);
    expect(compared.notes).toEqual([]);
  });

  it('read request by request say what sums say', async () => {
    const summed = await storedSide(sides.after, [], NOW);
    // Every request is slower than nothing: the same requests, picked.
    const picked = await storedSide({ ...sides.after, slower: 0 }, [], NOW);
    const parts = (side: typeof summed): unknown =>
      side.totals.part.parts.toSorted((a, b) => a.bookedNs - b.bookedNs);
    expect(parts(picked)).toEqual(parts(summed));
    expect(picked.totals.account).toEqual(summed.totals.account);
    expect(new Set(picked.findings)).toEqual(new Set(summed.findings));
    expect(picked.durationsNs).toEqual(summed.durationsNs);
  });

  it('leave out what is to be left out', async () => {
    const { compared } = await comparedSides(sides, ['failed', 'cold'], NOW);
    // Of each six failed, the first of each process among them: one of 7.2 on each host was the first, and failed or not.
    expect(compared.failed).toEqual({ before: 0, after: 0 });
    expect(compared.requests.before).toBeLessThan(EACH - 5);
  });

  it('with every host but one are the other hosts', async () => {
    const one = await storedSide({ ...sides.after, host: 'quay-3' }, [], NOW);
    const others = await storedSide({ ...sides.after, host: '!quay-3' }, [], NOW);
    expect([one.durationsNs.length, others.durationsNs.length]).toEqual([EACH / 3, (EACH * 2) / 3]);
  });

  it('that are empty, equal or overlap say so', async () => {
    const empty = scopeOf({ from: '1000', to: '2000' });
    const notes = async (before: Scope, after: Scope): Promise<string[]> =>
      (await comparedSides({ before, after }, [], NOW)).compared.notes.map(({ code }) => code);
    expect(await notes(empty, sides.after)).toContain('empty');
    expect(await notes(sides.after, sides.after)).toEqual(['same']);
    const both = scopeOf({ from: within(0).from, to: within(1).to });
    expect(await notes(both, sides.after)).toEqual(['overlap']);
  });

  it('of which single requests are gone have their sums alone, and say so', async () => {
    const client = openDatabase(url);
    await client.execute(
      `DELETE FROM requests WHERE start_us < ${(START + 5 * MINUTE) * 1000} AND duration_ns % 2 = 0`
    );
    client.close();
    const { compared, durationsNs, kept } = await comparedSides(sides, [], NOW);
    expect(kept).toEqual({ before: 'sums', after: 'requests' });
    expect(durationsNs.before).toHaveLength(0);
    expect(compared.notes.map(({ code }) => code)).toEqual(['sums']);
    expect(compared.requests.before).toBe(EACH);
    expect(compared.figures.before.median / 1e6).toBeGreaterThan(59);
    expect(compared.ledgers.part.lines.every(({ clear }) => !clear)).toBe(true);
  });
});

describe('what else changed', () => {
  it('is every endpoint and every kind of call of both sides', async () => {
    const { endpoints, calls } = await everythingElse(sides, NOW);
    expect(endpoints).toMatchObject([{ endpoint: 'GET /plan', change: { verdict: 'slower' } }]);
    expect(calls).toMatchObject([{ kind: 'database', perRequest: { before: 2, after: 30 } }]);
  });
});

describe('what may be held against each other', () => {
  it('is a release and the one before, hosts, slow requests and times', async () => {
    const presets = await presetsOf(scopeOf({ from: within(0).from, to: within(1).to }), NOW);
    const names = presets.map(({ name }) => name);
    expect(names).toContain('berths 7.2 → 7.3');
    expect(names).toContain('berths: every other host → quay-3');
    expect(names).toContain('a day earlier');
    const release = presets.find(({ name }) => name === 'berths 7.2 → 7.3')!;
    const { compared } = await comparedSides(release.sides, [], NOW);
    expect(compared.requests.after).toBe(EACH);
  });

  it('slow ones begin at p95, normal ones lie about the median', async () => {
    const scope = scopeOf(within(1));
    const found = (await slowAgainstNormal(
      scope,
      { fromUs: Number(within(1).from) * 1000, toUs: Number(within(1).to) * 1000 },
      NOW
    ))!;
    const { durationsNs: all } = await storedSide(scope, [], NOW);
    const [p40, p60, p95] = quantiles(all, [0.4, 0.6, 0.95]);
    const { durationsNs } = await comparedSides(found, [], NOW);
    expect(durationsNs.after).toEqual(all.filter((ns) => ns >= p95));
    expect(durationsNs.before).toEqual(all.filter((ns) => ns >= p40 && ns <= p60));
  });

  it('normal ones are there where most requests take the same time, and more came than are known exactly', async () => {
    const window = { fromUs: (START + 22 * MINUTE) * 1000, toUs: NOW * 1000 };
    const found = (await slowAgainstNormal(scopeOf({ endpoint: 'GET /tide' }), window, NOW))!;
    const { durationsNs } = await comparedSides(found, [], NOW);
    expect([durationsNs.before.length, durationsNs.after.length]).toEqual([ALIKE, SLOW]);
  });
});

it('what comes while a side is read is not taken for gone', async () => {
  const at = START + 20 * MINUTE;
  const scope = scopeOf({ endpoint: 'GET /late', from: String(at), to: String(at + 3 * MINUTE) });
  const late = (from: number, count: number): object[] =>
    Array.from({ length: count }, (_, i) =>
      request({ ms: 30, trace: 5000 + from + i, at: at + (from + i) * 1000, route: '/late' })
    );
  const writer = await openWriter(url);
  await sendRequests(writer, late(0, 20));
  expect(await storedSide(scope, [], NOW)).toMatchObject({ kept: 'requests', inScope: 20 });
  // The sums that are remembered are of the moment before.
  writer.onBooked = () => undefined;
  await sendRequests(writer, late(20, 12));
  const side = await storedSide(scope, [], NOW);
  expect(side).toMatchObject({ kept: 'requests', inScope: 32 });
  expect(side.durationsNs).toHaveLength(32);
  expect(side.totals.part.requests).toBe(32);
  await writer.close();
});

it('two scopes stand in an address and come out of it again, whatever is left out', () => {
  const query = comparedQuery({ ...sides, before: { ...sides.before, attributes: ['a=b&c=d'] } }, LEAVABLES);
  const read = comparedScopesFrom(new URLSearchParams(query));
  expect(read.after).toEqual(sides.after);
  expect(read.before).toEqual({ ...sides.before, attributes: ['a=b&c=d'] });
  expect(read.leave).toEqual(LEAVABLES);
  expect(comparedScopesFrom(new URLSearchParams('leave=anything&a=')).leave).toEqual([]);
});
