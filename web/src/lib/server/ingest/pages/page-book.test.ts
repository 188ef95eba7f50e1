import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { createClient, type Client } from '@libsql/client';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { load, resource } from '@tromix/core/testing/page-load';
import type { PageLoad } from '@tromix/core/pages/page-load';
import { openForWriting } from '../../db/client';
import { Writer } from '../writer';
import { unpackLoad } from './load-rows';

const MIGRATIONS = path.resolve(import.meta.dirname, '../../../../../drizzle');
let folder: string;
let writer: Writer;
let client: Client;

beforeEach(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-pages-'));
  const url = `file:${path.join(folder, 'test.sqlite')}`;
  const options = {
    keepLiteralsOf: [],
    maxInflatedBytes: 1e6,
    sourceFolders: [],
    settleMs: 1000,
    maxTraceSpans: 1000,
    markFile: '',
    retention: { days: 30, maxBytes: 1e12, graceMinutes: 60, logDays: 3, counterDays: 7 }
  };
  writer = await Writer.open(options, await openForWriting(url, MIGRATIONS));
  client = createClient({ url });
});
afterEach(async () => {
  await writer.close();
  client.close();
  await rm(folder, { recursive: true, force: true });
});

const AT_US = 1_700_000_000_000_000;
const ID = 'a'.repeat(32);
const first: PageLoad = load({
  traceId: ID,
  atUs: AT_US,
  vitals: { ttfb: 300, lcp: 2000 },
  resources: [
    resource('document', '/board', 0, 300, { traceId: 'b'.repeat(32), spanId: 'c'.repeat(16) }),
    resource('script', '/app.js', 300, 500)
  ]
});
const last: PageLoad = {
  ...first,
  vitals: { lcp: 5000, cls: 0.3 },
  resources: [],
  errors: [{ atMs: 700, type: 'TypeError', message: 'tides is undefined', stack: '' }]
};
const rowsOf = async (sql: string): Promise<Record<string, unknown>[]> =>
  (await client.execute(sql)).rows as unknown as Record<string, unknown>[];
const sums = (): Promise<Record<string, unknown>[]> =>
  rowsOf('SELECT loads, scored, score_sum, errors, lcp FROM page_rollups WHERE step = 1440 AND margin = 1');

describe('parts of page loads', () => {
  it('are one load, which is counted once as it is told at last', async () => {
    await writer.addPageParts([{ load: first, part: 1 }]);
    expect(await sums()).toMatchObject([{ loads: 1, scored: 1, score_sum: 10_000, errors: 0 }]);
    await writer.addPageParts([{ load: last, part: 2 }]);
    await writer.addPageParts([{ load: last, part: 2 }]);
    // TTFB is good, LCP poor and counted twice, CLS poor: 100 × (1 + 0 + 0) / 4.
    expect(await sums()).toMatchObject([{ loads: 1, scored: 1, score_sum: 2500, errors: 1 }]);
    const [row] = await rowsOf('SELECT * FROM page_loads');
    expect(row).toMatchObject({ lcp: 5000, ttfb: 300, cls: 0.3, inp: null, resources: 2, errors: 1 });
    expect(unpackLoad(new Uint8Array(row.data as ArrayBuffer)).resources).toHaveLength(2);
    expect(await rowsOf('SELECT load_id FROM page_asks')).toEqual([{ load_id: ID }]);
  });

  it('come to the same sums in the other order, and in one batch', async () => {
    await writer.addPageParts([
      { load: last, part: 2 },
      { load: first, part: 1 }
    ]);
    expect(await sums()).toMatchObject([{ loads: 1, scored: 1, score_sum: 2500, errors: 1 }]);
  });

  it('tell errors that are failures, each once', async () => {
    await writer.addPageParts([{ load: last, part: 2 }]);
    await writer.addPageParts([{ load: last, part: 2 }]);
    expect(await rowsOf('SELECT type, message FROM failure_groups')).toMatchObject([
      { type: 'TypeError', message: 'tides is undefined' }
    ]);
    expect(await rowsOf('SELECT count(*) AS n FROM failures')).toEqual([{ n: 1 }]);
  });

  it('go when they are older than requests are kept', async () => {
    await writer.addPageParts([{ load: first, part: 1 }]);
    // It began long ago, and came just now.
    await writer.sweep(Date.now() + 29 * 86_400_000);
    expect(await rowsOf('SELECT 1 FROM page_loads')).toHaveLength(1);
    await writer.sweep(Date.now() + 31 * 86_400_000);
    expect(await rowsOf('SELECT 1 FROM page_loads')).toHaveLength(0);
    expect(await rowsOf('SELECT 1 FROM page_asks')).toHaveLength(0);
    expect(await rowsOf('SELECT loads FROM page_rollups WHERE step = 1440 AND margin = 1')).toHaveLength(0);
  });

  it('of more pages than are told apart are of the other pages', async () => {
    const many = Array.from({ length: 5003 }, (_, i) => ({
      load: load({ traceId: i.toString(16).padStart(32, '0'), page: `/p${i}`, atUs: AT_US }),
      part: 1
    }));
    await writer.addPageParts(many);
    expect(await rowsOf("SELECT count(*) AS n FROM pages WHERE name <> '(other pages)'")).toEqual([
      { n: 5000 }
    ]);
    expect(
      await rowsOf(
        "SELECT count(*) AS n FROM page_loads l JOIN pages p ON p.id = l.page_id WHERE p.name = '(other pages)'"
      )
    ).toEqual([{ n: 3 }]);
  });
});
