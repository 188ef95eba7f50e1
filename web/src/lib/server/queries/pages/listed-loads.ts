import type { Vitals } from '@tromix/core/pages/vitals';
import { VITALS } from '@tromix/core/pages/vitals';
import type { Audience } from '$lib/page-choices';
import type { TimeWindow } from '$lib/scope';
import { select } from '../../db/reader';
import { audienceFilter } from './page-sums';

/** A load in a list. */
export interface ListedLoad extends Record<keyof Vitals, number | null> {
  traceId: string;
  startUs: number;
  score: number | null;
  device: string;
  connection: string;
  release: string;
  session: string;
  errors: number;
}

const COLUMNS = `l.trace_id AS traceId, l.start_us AS startUs, ${VITALS.map((vital) => `l.${vital}`).join(', ')}, l.score,
  a.device, a.connection, a.release, l.session, l.errors`;
const FROM = 'FROM page_loads l JOIN page_audiences a ON a.id = l.audience_id';
/** Loads of a list. */
const MOST = 200;

/** The loads of a page whose largest paint came last; those without one behind them. */
export function slowestLoads(audience: Audience, window: TimeWindow, page: number): Promise<ListedLoad[]> {
  const { sql, args } = audienceFilter(audience, 'l', page);
  return select<ListedLoad>(
    `SELECT ${COLUMNS} FROM (
      SELECT l.trace_id AS id FROM page_loads l WHERE l.source = 'visitor' AND l.start_us >= ? AND l.start_us < ?${sql} ORDER BY l.lcp DESC LIMIT ${MOST}
    ) f JOIN page_loads l ON l.trace_id = f.id JOIN page_audiences a ON a.id = l.audience_id ORDER BY l.lcp DESC`,
    [window.fromUs, window.toUs, ...args]
  );
}

/** The loads of a page next to one whose largest paint came at a moment: the ids of the next slower and the next faster one; '' for none. */
export async function neighbours(
  audience: Audience,
  window: TimeWindow,
  page: number,
  { traceId, lcp }: { traceId: string; lcp: number | null }
): Promise<{ slower: string; faster: string }> {
  if (lcp === null) return { slower: '', faster: '' };
  const { sql, args } = audienceFilter(audience, 'l', page);
  const next = async (condition: string, order: string): Promise<string> => {
    const rows = await select<{ id: string }>(
      `SELECT l.trace_id AS id FROM page_loads l WHERE l.source = 'visitor' AND l.start_us >= ? AND l.start_us < ?${sql} AND ${condition} ORDER BY ${order} LIMIT 1`,
      [window.fromUs, window.toUs, ...args, lcp, lcp, traceId]
    );
    return rows[0]?.id ?? '';
  };
  const [slower, faster] = await Promise.all([
    next('(l.lcp > ? OR (l.lcp = ? AND l.trace_id > ?))', 'l.lcp, l.trace_id'),
    next('(l.lcp < ? OR (l.lcp = ? AND l.trace_id < ?))', 'l.lcp DESC, l.trace_id DESC')
  ]);
  return { slower, faster };
}

/** A load that was recorded, or read from an archive. */
export interface TrialLoad extends ListedLoad {
  site: string;
  page: string;
  source: 'recorder' | 'archive';
  receivedUs: number;
}

/** Loads that were recorded, or read from archives, the newest first. */
export const trialLoads = (): Promise<TrialLoad[]> =>
  select<TrialLoad>(
    `SELECT ${COLUMNS}, p.site, p.name AS page, l.source, l.received_us AS receivedUs
      FROM (SELECT trace_id AS id FROM page_loads WHERE source IN ('recorder', 'archive') ORDER BY received_us DESC LIMIT ${MOST}) f
      JOIN page_loads l ON l.trace_id = f.id JOIN page_audiences a ON a.id = l.audience_id JOIN pages p ON p.id = l.page_id
      ORDER BY l.received_us DESC`
  );

/** The loads of a visit, in order of time. */
export const loadsOfVisit = (session: string): Promise<(ListedLoad & { site: string; page: string })[]> =>
  select(
    `SELECT ${COLUMNS}, p.site, p.name AS page ${FROM} JOIN pages p ON p.id = l.page_id WHERE l.session = ? ORDER BY l.start_us LIMIT ${MOST}`,
    [session]
  );
