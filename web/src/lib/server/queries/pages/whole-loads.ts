import type { PageLoad } from '@tromix/core/pages/page-load';
import type { Audience } from '$lib/page-choices';
import type { TimeWindow } from '$lib/scope';
import { oneOf } from '../../db/bulk';
import { reader } from '../../db/reader';
import { unpackLoad } from '../../ingest/pages/load-rows';
import { audienceFilter } from './page-sums';

const loadOf = (data: unknown): PageLoad => unpackLoad(new Uint8Array(data as ArrayBuffer));

/** Some loads whole, in order of time. */
export async function wholeLoads(ids: readonly string[]): Promise<PageLoad[]> {
  const { rows } = await (
    await reader()
  ).query(`SELECT data FROM page_loads WHERE ${oneOf('trace_id')} ORDER BY start_us`, [JSON.stringify(ids)]);
  return rows.map(([data]) => loadOf(data));
}

/** Loads of a page that are looked at one by one, for what many have alike. */
export const LOOKED_AT = 50;

/** The newest loads of a page that had a largest paint. */
export async function newestPainted(
  audience: Audience,
  window: TimeWindow,
  page: number
): Promise<PageLoad[]> {
  const { sql, args } = audienceFilter(audience, 'l', page);
  const { rows } = await (
    await reader()
  ).query(
    `SELECT data FROM page_loads WHERE trace_id IN (
      SELECT l.trace_id FROM page_loads l WHERE l.source = 'visitor' AND l.start_us >= ? AND l.start_us < ?${sql} AND l.lcp IS NOT NULL ORDER BY l.start_us DESC LIMIT ${LOOKED_AT})`,
    [window.fromUs, window.toUs, ...args]
  );
  return rows.map(([data]) => loadOf(data));
}
