import type { InStatement } from '@libsql/client';
import type { LogRecord } from '@tromix/core/formats/otlp/logs';
import { mergeParts, type ToldLoad } from '@tromix/core/pages/merge-parts';
import type { PageLoad } from '@tromix/core/pages/page-load';
import { oneOf } from '../../db/bulk';
import type { Database } from '../../db/database';
import { RollupDelta } from '../rollup';
import { insertAsks, insertLoad, unpackLoad } from './load-rows';
import { errorRecords } from './page-errors';
import { PageNames, type NamedLoad } from './page-names';
import { PAGE_ROLLUP, type CountedLoad } from './page-shape';

/** What booking some parts of loads comes to. */
export interface BookedLoads {
  statements: InStatement[];
  /** The first minute whose sums change. */
  firstMinute: number;
  /** What pages say of errors that were not told before. */
  errors: LogRecord[];
}

interface StoredLoad extends NamedLoad {
  told: ToldLoad;
  profile: string;
}

const counted = ({ atUs, vitals, errors }: PageLoad, named: NamedLoad): CountedLoad => ({
  ...named,
  startUs: atUs,
  vitals,
  errors: errors.length
});

/** Page loads, part by part: each part that comes is put to what is stored of its load, and the sums follow. */
export class PageBook {
  readonly #database: Database;
  readonly #names: PageNames;

  private constructor(database: Database, names: PageNames) {
    this.#database = database;
    this.#names = names;
  }

  static async open(database: Database): Promise<PageBook> {
    return new PageBook(database, await PageNames.load(database));
  }

  /** To be written before anything else is booked: it is worked out from what is stored. */
  async book(parts: readonly ToldLoad[]): Promise<BookedLoads> {
    const stored = await this.#stored(parts.map(({ load }) => load.traceId));
    const merged = new Map<string, ToldLoad>();
    for (const part of parts) {
      const id = part.load.traceId;
      const known = merged.get(id) ?? stored.get(id)?.told;
      merged.set(id, known ? mergeParts(known, part) : part);
    }
    const told = [...merged.values()];
    const names = await this.#names.numbersOf(
      this.#database,
      told.map(({ load }) => load)
    );
    const sums = new RollupDelta(PAGE_ROLLUP);
    for (const { told, ...named } of stored.values())
      if (told.load.source === 'visitor') sums.add(counted(told.load, named), -1);
    told.forEach(({ load }, i) => {
      if (load.source === 'visitor') sums.add(counted(load, names[i]), 1);
    });
    return {
      statements: [
        ...told.map((one, i) => insertLoad(one, names[i], stored.get(one.load.traceId)?.profile ?? '')),
        ...insertAsks(told.map(({ load }) => load)),
        ...(await sums.statements(this.#database))
      ],
      firstMinute: sums.firstMinute,
      errors: told.flatMap(({ load }) => {
        // Nobody was there whom an error of a trial could have hit.
        if (load.source !== 'visitor') return [];
        const before = stored.get(load.traceId)?.told.load.errors.length ?? 0;
        return errorRecords(load, load.errors.slice(before));
      })
    };
  }

  async #stored(ids: readonly string[]): Promise<Map<string, StoredLoad>> {
    const { rows } = await this.#database.query(
      `SELECT trace_id, page_id, audience_id, part, profile, data FROM page_loads WHERE ${oneOf('trace_id')}`,
      [JSON.stringify(ids)]
    );
    return new Map(
      rows.map(([traceId, pageId, audienceId, part, profile, data]): [string, StoredLoad] => [
        String(traceId),
        {
          pageId: Number(pageId),
          audienceId: Number(audienceId),
          profile: String(profile),
          told: {
            // The client gives bytes of a thread of their own.
            load: unpackLoad(new Uint8Array(data as ArrayBuffer)),
            part: Number(part)
          }
        }
      ])
    );
  }
}
