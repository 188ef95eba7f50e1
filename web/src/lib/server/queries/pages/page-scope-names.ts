import { NOT_TOLD } from '$lib/page-choices';
import { select } from '../../db/reader';

/** What there is to choose from, of who waits before pages. */
export interface PageScopeNames {
  sites: string[];
  pages: { id: number; site: string; name: string }[];
  releases: string[];
  devices: string[];
  connections: string[];
  countries: string[];
  /** How many more pages there are than are listed. */
  morePages: number;
}

/** Names of a kind that are listed. */
const MAX_NAMES = 500;

/** Of visitors: what was recorded, or read from an archive, is in no sum. */
const COUNTED = 'id IN (SELECT audience_id FROM page_rollups WHERE step = 1440 AND margin = 0)';

export async function pageScopeNames(): Promise<PageScopeNames> {
  const distinct = async (column: 'release' | 'device' | 'connection' | 'country'): Promise<string[]> => {
    const rows = await select<{ name: string }>(
      `SELECT DISTINCT ${column} AS name FROM page_audiences WHERE ${COUNTED} ORDER BY name = '', name LIMIT ${MAX_NAMES}`
    );
    return rows.map(({ name }) => name || NOT_TOLD);
  };
  const [sites, pages, releases, devices, connections, countries, [{ count }]] = await Promise.all([
    select<{ site: string }>(`SELECT DISTINCT site FROM pages ORDER BY site LIMIT ${MAX_NAMES}`),
    select<PageScopeNames['pages'][number]>(
      `SELECT id, site, name FROM pages ORDER BY name, site LIMIT ${MAX_NAMES}`
    ),
    distinct('release'),
    distinct('device'),
    distinct('connection'),
    distinct('country'),
    select<{ count: number }>('SELECT count(*) AS count FROM pages')
  ]);
  return {
    sites: sites.map(({ site }) => site).filter(Boolean),
    pages,
    releases,
    devices,
    connections,
    countries,
    morePages: count - pages.length
  };
}
