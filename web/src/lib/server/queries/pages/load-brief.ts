import { select } from '../../db/reader';

/** The little that is known of a load without reading it whole. */
export interface LoadBrief {
  pageId: number;
  site: string;
  page: string;
  release: string;
  startUs: number;
  /** The profile it made of itself; '' for none. */
  profile: string;
}

/** null for a load that is not stored. */
export async function loadBrief(traceId: string): Promise<LoadBrief | null> {
  const rows = await select<LoadBrief>(
    `SELECT l.page_id AS pageId, p.site, p.name AS page, a.release, l.start_us AS startUs, l.profile
      FROM page_loads l JOIN pages p ON p.id = l.page_id JOIN page_audiences a ON a.id = l.audience_id WHERE l.trace_id = ?`,
    [traceId]
  );
  return rows[0] ?? null;
}
