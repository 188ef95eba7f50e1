import type { Client, InStatement } from '@libsql/client';
import { addBucket, readSketch, writeSketch, type Sketch } from '@tromix/core/stats/sketch';
import { bulkInsert } from '../db/bulk';
import { ROLLUP_SUMS } from '../db/ledger-columns';

const KEY = ['minute', 'endpoint_id', 'host_id', 'release_id'];
const COLUMNS = [...KEY, ...ROLLUP_SUMS, 'sketch'];

/** What one request adds to its minute; taken back with sign −1 when the request is booked again. */
export interface Contribution {
  /** minute, endpoint, host, release. */
  key: number[];
  /** In the order of the summed columns. */
  sums: number[];
  bucket: number;
}

interface Cell {
  key: number[];
  sums: number[];
  sketch: Sketch;
}

/** Sums contributions up before they are merged into the stored rows. */
export class RollupDelta {
  readonly #cells = new Map<string, Cell>();

  add({ key, sums, bucket }: Contribution, sign: 1 | -1): void {
    const name = key.join(' ');
    let cell = this.#cells.get(name);
    if (!cell) {
      cell = { key, sums: new Array<number>(sums.length).fill(0), sketch: new Map() };
      this.#cells.set(name, cell);
    }
    for (let i = 0; i < sums.length; i++) cell.sums[i] += sign * sums[i];
    addBucket(cell.sketch, bucket, sign);
  }

  /** Reads the stored rows of these minutes and gives the statement that writes them back with the changes in. */
  async statements(client: Client): Promise<InStatement[]> {
    if (this.#cells.size === 0) return [];
    const keys = JSON.stringify([...this.#cells.values()].map((cell) => cell.key));
    const { rows } = await client.execute({
      sql: `SELECT ${COLUMNS.map((column) => `m.${column}`).join(', ')} FROM json_each(?) k JOIN minute_rollups m
        ON ${KEY.map((column, i) => `m.${column} = k.value->>${i}`).join(' AND ')}`,
      args: [keys]
    });
    for (const row of rows) {
      const key = KEY.map((_, i) => Number(row[i]));
      const cell = this.#cells.get(key.join(' '))!;
      for (let i = 0; i < ROLLUP_SUMS.length; i++) cell.sums[i] += Number(row[KEY.length + i]);
      for (const [bucket, count] of readSketch(String(row[KEY.length + ROLLUP_SUMS.length])))
        addBucket(cell.sketch, bucket, count);
    }
    const changed = [...this.#cells.values()].map(({ key, sums, sketch }) => [
      ...key,
      ...sums,
      writeSketch(sketch)
    ]);
    return [bulkInsert('INSERT OR REPLACE', 'minute_rollups', COLUMNS, changed)];
  }
}
