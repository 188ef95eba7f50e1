import type { PageLoad } from '@tromix/core/pages/page-load';
import { wellFormed } from '@tromix/core/text/well-formed';
import { bulkInsert } from '../../db/bulk';
import { jsonOf, type Database } from '../../db/database';

/** Pages and audiences told apart; beyond, what is new is the one of the others. */
export const MAX_PAGES = 5000;
const MAX_AUDIENCES = 20_000;
export const OTHER_PAGES = '(other pages)';

/** Number of its page and of its audience. */
export interface NamedLoad {
  pageId: number;
  audienceId: number;
}

interface Kind {
  table: 'pages' | 'page_audiences';
  columns: readonly string[];
  most: number;
  namesOf: (load: PageLoad) => string[];
  /** What stands for one beyond the most. */
  other: string[];
}

const PAGES: Kind = {
  table: 'pages',
  columns: ['site', 'name'],
  most: MAX_PAGES,
  namesOf: ({ service, page }) => [service, page.slice(0, 300)],
  other: ['', OTHER_PAGES]
};
const AUDIENCES: Kind = {
  table: 'page_audiences',
  columns: ['release', 'device', 'connection', 'country'],
  most: MAX_AUDIENCES,
  namesOf: ({ release, device, connection, country }) => [release, device, connection, country],
  other: ['', '', '', '']
};

/** Numbers of pages and audiences: browsers send their names, and anybody may send any. */
export class PageNames {
  readonly #known = { pages: new Map<string, number>(), page_audiences: new Map<string, number>() };

  static async load(database: Database): Promise<PageNames> {
    const names = new PageNames();
    for (const kind of [PAGES, AUDIENCES]) await names.#read(database, kind);
    return names;
  }

  /** The numbers of some loads' pages and audiences, in their order; new ones get theirs. */
  async numbersOf(database: Database, loads: readonly PageLoad[]): Promise<NamedLoad[]> {
    const pageIds = await this.#numbers(database, PAGES, loads);
    const audienceIds = await this.#numbers(database, AUDIENCES, loads);
    return loads.map((_, i) => ({ pageId: pageIds[i], audienceId: audienceIds[i] }));
  }

  async #numbers(database: Database, kind: Kind, loads: readonly PageLoad[]): Promise<number[]> {
    const known = this.#known[kind.table];
    const names = loads.map((load) => kind.namesOf(load).map(wellFormed));
    const fresh = new Map<string, string[]>();
    const keys = names.map((name) => {
      const key = JSON.stringify(name);
      if (known.has(key) || fresh.has(key)) return key;
      const isFull = known.size + fresh.size >= kind.most;
      const taken = isFull ? kind.other : name;
      const takenKey = JSON.stringify(taken);
      if (!known.has(takenKey)) fresh.set(takenKey, taken);
      return takenKey;
    });
    if (fresh.size > 0) {
      await database.write([bulkInsert('INSERT OR IGNORE', kind.table, kind.columns, [...fresh.values()])]);
      await this.#read(database, kind);
    }
    return keys.map((key) => known.get(key)!);
  }

  async #read(database: Database, { table, columns }: Kind): Promise<void> {
    const rows = await jsonOf<[number, ...string[]]>(
      database,
      `SELECT json_group_array(json_array(id, ${columns.join(', ')})) FROM ${table}`
    );
    for (const [id, ...name] of rows) this.#known[table].set(JSON.stringify(name), id);
  }
}
