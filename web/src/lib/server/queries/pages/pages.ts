import type { Audience } from '$lib/page-choices';
import type { TimeWindow } from '$lib/scope';
import { select } from '../../db/reader';
import { figuresOf, worthAmong, type PageFigures } from './page-figures';
import { addSums, emptySums, pageSums } from './page-sums';

export interface PageRow extends PageFigures {
  id: number;
  site: string;
  name: string;
  /** Points that the mean score of all loads here would gain if every load of it were good. */
  worth: number;
}

export interface PageList {
  pages: PageRow[];
  /** All loads here together. */
  all: PageFigures;
}

/** Pages in a window, what is worth most first. */
export async function pagesOf(audience: Audience, window: TimeWindow, nowMs: number): Promise<PageList> {
  const [sums, names] = await Promise.all([pageSums(audience, window, nowMs, 'page'), pageNames()]);
  const all = emptySums();
  for (const one of sums) addSums(all, one);
  const pages = sums.flatMap(({ key, ...one }): PageRow[] => {
    const named = names.get(key);
    return named ? [{ id: key, ...named, ...figuresOf(one), worth: worthAmong(one, all.scored) }] : [];
  });
  return { pages: pages.sort((a, b) => b.worth - a.worth || b.loads - a.loads), all: figuresOf(all) };
}

interface PageName {
  site: string;
  name: string;
}

async function pageNames(): Promise<Map<number, PageName>> {
  const rows = await select<PageName & { id: number }>('SELECT id, site, name FROM pages');
  return new Map(rows.map(({ id, site, name }) => [id, { site, name }]));
}

/** null for a page that is not there. */
export async function pageName(id: number): Promise<PageName | null> {
  const rows = await select<PageName>('SELECT site, name FROM pages WHERE id = ?', [id]);
  return rows[0] ?? null;
}
