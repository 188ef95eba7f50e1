import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { scopeFrom, type Scope } from '$lib/scope';
import { MINUTE, openWriter, request, RETENTION, sendRequests } from '$lib/testing/sent-requests';

/** What a scope is compared at. Three releases, each ten minutes: the second is slow and asks row by row, the third mends it. */
let folder: string;
let url: string;
vi.mock('../settings', () => ({
  settings: () => ({ databaseUrl: url, sourceFolders: [], retention: RETENTION })
}));
vi.mock('../workers', async () => (await import('$lib/testing/local-workers')).localWorkers(() => url));
const { overviewOf } = await import('./overview');

const NOW = 1_700_001_000_000 - (1_700_001_000_000 % 3_600_000) + 2_400_000;
const PHASES = [
  { release: '7.2', ms: 50, queries: 2 },
  { release: '7.3', ms: 400, queries: 30 },
  { release: '7.4', ms: 50, queries: 2 },
  { release: '7.5', ms: 52, queries: 2 }
];

beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-compared-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  const writer = await openWriter(url);
  const sent = PHASES.flatMap((phase, p) =>
    Array.from({ length: 40 }, (_, i) =>
      request({ ...phase, trace: 1 + p * 40 + i, at: NOW - 28 * MINUTE + p * 7 * MINUTE + i * 9000 })
    )
  );
  await sendRequests(writer, sent);
  await writer.close();
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const scopeOf = (query: Record<string, string>): Scope => scopeFrom(new URLSearchParams(query));
const choice = { kind: 'endpoints' as const, against: 'auto' as const };
const [all, untilFixed] = [{}, { from: String(NOW - 30 * MINUTE), to: String(NOW - 15 * MINUTE) }];

describe('the overview', () => {
  it('is compared at the release that explains most, not at the latest', async () => {
    const { turn, marks } = await overviewOf(scopeOf(untilFixed), NOW, choice);
    expect(turn).toMatchObject({ kind: 'release', release: '7.3' });
    const whole = await overviewOf(scopeOf(all), NOW, choice);
    expect(whole.turn).toMatchObject({ kind: 'release', release: '7.4' });
    expect(whole.marks.map(({ release }) => release)).toEqual(['7.5', '7.4', '7.3']);
    expect(marks.map(({ release }) => release)).toEqual(['7.3']);
  });

  it('is compared at another one on wish', async () => {
    const { marks } = await overviewOf(scopeOf(all), NOW, choice);
    const mark = marks.find(({ release }) => release === '7.3')!;
    const { turn } = await overviewOf(scopeOf(all), NOW, { ...choice, against: `r${mark.id}` });
    expect(turn).toMatchObject({ kind: 'release', release: '7.3' });
  });

  it('compares each release with the one before it', async () => {
    const { rows } = await overviewOf(scopeOf(all), NOW, { kind: 'releases', against: 'auto' });
    const changeOf = (name: string): unknown => rows.find((row) => row.name === name)!.change.verdict;
    expect([changeOf('7.2'), changeOf('7.3'), changeOf('7.4')]).toEqual(['too few', 'slower', 'faster']);
  });

  it('credits the release that no longer shows a finding, and lists it no more among those there are', async () => {
    const { fixed, findings } = await overviewOf(scopeOf(all), NOW, choice);
    expect(fixed.map(({ release, after, found }) => [release, after, found])).toContainEqual(['7.4', 80, 40]);
    expect(findings.map(({ rule }) => rule)).not.toContain('query-per-row');
    const before = await overviewOf(scopeOf(untilFixed), NOW, choice);
    expect(before.findings.map(({ rule }) => rule)).toContain('query-per-row');
  });
});

describe('of two releases', () => {
  it('the one is chosen that made an endpoint slower, not the one since which slow endpoints are asked for more', async () => {
    const writer = await openWriter(url);
    // Later than everything the other tests look at.
    const start = NOW + 60 * MINUTE;
    const every = (first: number, count: number, of: Parameters<typeof request>[0]): object[] =>
      Array.from({ length: count }, (_, i) =>
        request({ ...of, trace: 1000 + first + i, at: of.at + (i * 7 * MINUTE) / count })
      );
    await sendRequests(writer, [
      ...every(0, 60, { trace: 0, at: start, ms: 40, release: '8.2', route: '/quick' }),
      ...every(100, 10, { trace: 0, at: start, ms: 900, release: '8.2', route: '/slow' }),
      // 8.3 makes the quick ones four times as slow.
      ...every(200, 60, { trace: 0, at: start + 8 * MINUTE, ms: 160, release: '8.3', route: '/quick' }),
      ...every(300, 10, { trace: 0, at: start + 8 * MINUTE, ms: 900, release: '8.3', route: '/slow' }),
      // Since 8.4 there are ten times as many slow ones, which take what they took.
      ...every(400, 60, { trace: 0, at: start + 16 * MINUTE, ms: 160, release: '8.4', route: '/quick' }),
      ...every(500, 100, { trace: 0, at: start + 16 * MINUTE, ms: 900, release: '8.4', route: '/slow' })
    ]);
    await writer.close();
    const { turn } = await overviewOf(scopeOf(all), start + 28 * MINUTE, choice);
    expect(turn).toMatchObject({ kind: 'release', release: '8.3' });
  });
});
