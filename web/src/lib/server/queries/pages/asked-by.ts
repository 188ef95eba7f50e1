import { select } from '../../db/reader';
import type { AskedBy } from '../request-page';

/** Loads shown of one request: there is one, unless somebody sends what is not so. */
const MOST = 5;

/** The loads of pages that asked for a request, or for another of its trace. */
export const askedBy = (traceId: string): Promise<AskedBy[]> =>
  select<AskedBy>(
    `SELECT DISTINCT l.trace_id AS traceId, p.name AS page, p.site, l.start_us AS startUs, l.lcp
      FROM page_asks k JOIN page_loads l ON l.trace_id = k.load_id JOIN pages p ON p.id = l.page_id
      WHERE k.trace_id = ? ORDER BY l.start_us LIMIT ${MOST}`,
    [traceId]
  );
