import type { CounterValue } from '@tromix/core/formats/otlp/metrics';
import { maskResource, type MaskOptions } from '@tromix/core/calls/mask';
import { jsonOf, type Database } from '../db/database';
import { rowsOf } from '../db/rows';
import { counters } from '../db/schema';
import { Once } from '../once';

/** Counters of processes that are kept apart; those of further ones are turned away. */
export const MAX_SERIES = 20_000;

const ROWS = rowsOf(counters);

/** Counters of processes over time: names that never end are bounded. */
export class CounterSeries {
  readonly #database: Database;
  readonly #mask: MaskOptions;
  readonly #known = new Once(
    async () =>
      new Set(
        await jsonOf<string>(
          this.#database,
          'SELECT json_group_array(key) FROM (SELECT DISTINCT json_array(name, service, host, pid) AS key FROM counters)'
        )
      )
  );

  constructor(database: Database, mask: MaskOptions) {
    this.#database = database;
    this.#mask = mask;
  }

  /** Makes the statement that stores values: one that comes again for the same moment counts once. Those beyond the bound are left out. */
  async insertion(
    values: readonly CounterValue[]
  ): Promise<{ statement: ReturnType<typeof ROWS.insert>; left: number }> {
    const known = await this.#known.get();
    const rows = values.flatMap(({ name, resource, atUs, value }) => {
      const { service, host, pid } = maskResource(resource, this.#mask);
      const key = JSON.stringify([name, service, host, pid]);
      if (!known.has(key) && known.size >= MAX_SERIES) return [];
      known.add(key);
      return [{ name, service, host, pid, atUs, value }];
    });
    return { statement: ROWS.insert('INSERT OR REPLACE', rows), left: values.length - rows.length };
  }

  /** Some went for their age, perhaps: there may be room for those of new processes. */
  async makeRoom(): Promise<void> {
    if (this.#known.asked && (await this.#known.get()).size >= MAX_SERIES) this.#known.forget();
  }
}
