import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import type { PageLoad } from '@tromix/core/pages/page-load';
import { loadScore, VITALS } from '@tromix/core/pages/vitals';
import { load, resource } from '@tromix/core/testing/page-load';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { Audience } from '$lib/page-choices';
import { MINUTE, openWriter, request, RETENTION, sendRequests } from '$lib/testing/sent-requests';
import type { Writer } from '../../ingest/writer';

let folder: string;
let url: string;
let writer: Writer;
vi.mock('../../settings', () => ({
  settings: () => ({ databaseUrl: url, sourceFolders: [], retention: RETENTION })
}));
vi.mock('../../workers', async () => (await import('$lib/testing/local-workers')).localWorkers(() => url));
const { pagesOf } = await import('./pages');
const { onePage } = await import('./one-page');
const { oneLoad } = await import('./one-load');
const { oneVisit } = await import('./one-visit');
const { askedBy } = await import('./asked-by');
const { trialLoads } = await import('./listed-loads');

const NOW = Math.floor(Date.now() / MINUTE) * MINUTE;
const window = { fromUs: (NOW - 60 * MINUTE) * 1000, toUs: NOW * 1000 };
const EVERY: Audience = { site: '', release: '', device: '', connection: '', country: '' };

/** Loads of two pages, of which one is slow on phones; each with other figures. */
const loads: PageLoad[] = Array.from({ length: 60 }, (_, i) => {
  const isBoard = i % 3 > 0;
  const isPhone = i % 2 === 0;
  const lcp = isBoard && isPhone ? 3000 + i * 40 : 600 + i * 10;
  return load({
    traceId: (i + 1).toString(16).padStart(32, '0'),
    atUs: (NOW - (i % 50) * MINUTE - 1000) * 1000,
    page: isBoard ? '/board' : '/vessels',
    device: isPhone ? 'phone' : 'desktop',
    release: i < 30 ? '7.2' : '7.3',
    session: `s${i % 7}`,
    vitals: { ttfb: 50 + i, lcp, cls: i % 10 === 0 ? 0.3 : 0 },
    largest: { atMs: lcp, element: 'h1', url: '' },
    resources: [
      resource('document', `https://quay.example/${isBoard ? 'board' : 'vessels'}`, 0, 50 + i),
      resource('script', 'https://quay.example/charts.js', 60 + i, lcp - 20, { transferBytes: 500_000 })
    ]
  });
});
/** In a trial nobody waits. */
const trial = load({
  traceId: 'f'.repeat(32),
  atUs: (NOW - MINUTE) * 1000,
  source: 'recorder',
  vitals: { lcp: 20_000 },
  largest: { atMs: 20_000, element: 'h1', url: '' }
});

beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-page-queries-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  writer = await openWriter(url);
  await writer.addPageParts([...loads, trial].map((one) => ({ load: one, part: 1 })));
});
afterAll(async () => {
  await writer.close();
  await rm(folder, { recursive: true, force: true });
});

const of = (page: string, device = ''): PageLoad[] =>
  loads.filter((one) => one.page === page && (device === '' || one.device === device));
const mean = (list: readonly PageLoad[]): number =>
  list.reduce((sum, { vitals }) => sum + loadScore(vitals)!, 0) / list.length;
/** The 75th percentile by its definition: the least value that as many lie at or below. */
const p75 = (values: readonly number[]): number =>
  values.toSorted((a, b) => a - b)[Math.ceil(0.75 * values.length) - 1];

describe('pages', () => {
  it('are ranked by what they are worth, by the definition', async () => {
    const { pages, all } = await pagesOf(EVERY, window, NOW);
    expect(pages.map(({ name }) => name)).toEqual(['/board', '/vessels']);
    expect(all.loads).toBe(60);
    expect(all.score).toBeCloseTo(mean(loads), 1);
    for (const page of pages) {
      const own = of(page.name);
      const gained =
        (loads.reduce((sum, one) => sum + (one.page === page.name ? 100 : loadScore(one.vitals)!), 0) -
          mean(loads) * 60) /
        60;
      expect(page.worth).toBeCloseTo(gained, 1);
      expect(page.loads).toBe(own.length);
      expect(page.score).toBeCloseTo(mean(own), 1);
      for (const vital of VITALS) {
        const values = own.flatMap(({ vitals }) => vitals[vital] ?? []);
        if (values.length === 0) expect(page.p75[vital]).toBeNull();
        // Within the 1 % of the sketch, and the step to the next value beside the quantile.
        else expect(Math.abs(page.p75[vital]! - p75(values)) / Math.max(1, p75(values))).toBeLessThan(0.03);
      }
    }
  });

  it('of phones are those alone, and a page that nobody loaded is not there', async () => {
    const { pages } = await pagesOf({ ...EVERY, device: 'phone' }, window, NOW);
    expect(pages.find(({ name }) => name === '/board')?.loads).toBe(of('/board', 'phone').length);
    expect((await pagesOf({ ...EVERY, release: '7.9' }, window, NOW)).pages).toEqual([]);
    expect((await pagesOf({ ...EVERY, site: 'elsewhere' }, window, NOW)).pages).toEqual([]);
  });

  it('tell of one what parts of its loads come to, which add up', async () => {
    const [{ id }] = (await pagesOf(EVERY, window, NOW)).pages;
    const page = await onePage(EVERY, window, NOW, id);
    const own = of('/board').length;
    expect(page.figures.loads).toBe(own);
    for (const rows of Object.values(page.apart))
      expect(rows.reduce((sum, row) => sum + row.loads, 0)).toBe(own);
    expect(page.series.reduce((sum, one) => sum + one.loads, 0)).toBe(own);
    const bars = page.vitals.find(({ vital }) => vital === 'lcp')!.bars;
    expect(bars.reduce((sum, { count }) => sum + count, 0)).toBe(own);
    expect(page.slowest[0].lcp).toBe(Math.max(...of('/board').map(({ vitals }) => vitals.lcp!)));
    expect(page.before[0]).toMatchObject({ what: 'script', name: '/charts.js', share: 1 });
    expect(page.findings[0]).toMatchObject({ rule: 'script-before-paint' });
    expect(page.findings[0].loads).toBeLessThanOrEqual(page.lookedAt);
  });

  it('are found by a part of their names', async () => {
    const { findNames } = await import('../palette');
    expect(await findNames('essel')).toMatchObject([
      { kind: 'page', label: '/vessels', detail: 'page of board' }
    ]);
  });

  it('leave out what was recorded, which is listed by itself', async () => {
    expect((await trialLoads()).map(({ traceId }) => traceId)).toEqual([trial.traceId]);
    const { all } = await pagesOf(EVERY, window, NOW);
    expect(all.loads).toBe(60);
  });

  it('lead from a load to slower and faster ones, and to its visit', async () => {
    const sorted = of('/board').toSorted((a, b) => b.vitals.lcp! - a.vitals.lcp!);
    const one = (await oneLoad(sorted[1].traceId, EVERY, window, NOW))!;
    expect([one.slower, one.faster]).toEqual([sorted[0].traceId, sorted[2].traceId]);
    expect(await oneLoad('0'.repeat(32), EVERY, window, NOW)).toBeNull();
    const visit = (await oneVisit('s3'))!;
    expect(visit.loads.length).toBe(loads.filter(({ session }) => session === 's3').length);
    expect(await oneVisit('nobody')).toBeNull();
  });
});

describe('a page and the request behind it', () => {
  it('lead to each other', async () => {
    await sendRequests(writer, [request({ trace: 7, at: NOW - 2 * MINUTE, ms: 90 })]);
    const { rows } = await (
      await import('../../workers')
    )
      .readerDatabase()
      .query('SELECT trace_id, span_id FROM requests');
    const [traceId, spanId] = rows[0].map(String);
    const asking = load({
      traceId: 'e'.repeat(32),
      atUs: (NOW - 2 * MINUTE) * 1000,
      resources: [resource('document', '/board', 0, 90, { traceId, spanId })]
    });
    await writer.addPageParts([{ load: asking, part: 1 }]);
    expect(await askedBy(traceId)).toMatchObject([{ traceId: asking.traceId, page: '/board' }]);
    const one = (await oneLoad(asking.traceId, EVERY, window, NOW))!;
    expect(one.requests).toMatchObject([{ traceId, spanId }]);
  });
});
