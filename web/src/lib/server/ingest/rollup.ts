import type { InStatement } from '@libsql/client';
import {
  addBucket,
  emptySketch,
  mergeInto,
  readSketch,
  writeSketch,
  type Sketch
} from '@tromix/core/stats/sketch';
import type { Step } from '$lib/roll-up-steps';
import { bulkInsert } from '../db/bulk';
import { jsonOf, type Database } from '../db/database';

/** How a table of sums over time is laid out. */
export interface RollupShape {
  table: string;
  /** Columns of the key after `step` and `at`. */
  key: readonly string[];
  sums: readonly string[];
  /** Columns of which the greatest counts. Taking a request out again leaves them as they are. */
  greatest: readonly string[];
  sketches: readonly string[];
  steps: readonly Step[];
  /** Further keys each row is summed under: what the key columns become there. */
  margins: readonly Readonly<Record<string, number>>[];
}

/** What one request adds; taken back with sign −1 when it is booked again. */
export interface Contribution {
  minute: number;
  key: number[];
  sums: number[];
  greatest: number[];
  /** Bucket counts for each sketch. */
  sketches: Iterable<readonly [number, number]>[];
}

interface Cell {
  step: number;
  at: number;
  key: number[];
  sums: number[];
  greatest: number[];
  sketches: Sketch[];
}

/** Sums contributions up in memory before they are merged into the stored rows of every step. */
export class RollupDelta {
  readonly #shape: RollupShape;
  readonly #minutes = new Map<string, Cell>();

  constructor(shape: RollupShape) {
    this.#shape = shape;
  }

  /** The first minute anything was added to; Infinity for nothing. */
  get firstMinute(): number {
    let first = Infinity;
    for (const { at } of this.#minutes.values()) first = Math.min(first, at);
    return first;
  }

  add({ minute, key, sums, greatest, sketches }: Contribution, sign: 1 | -1): void {
    const cell = this.#cell(this.#minutes, 1, minute, key);
    for (let i = 0; i < sums.length; i++) cell.sums[i] += sign * sums[i];
    if (sign > 0)
      for (let i = 0; i < greatest.length; i++) cell.greatest[i] = Math.max(cell.greatest[i], greatest[i]);
    sketches.forEach((pairs, i) => {
      for (const [bucket, count] of pairs) addBucket(cell.sketches[i], bucket, sign * count);
    });
  }

  /** Reads the stored rows these changes belong to and gives the statements that write them back with the changes in. */
  async statements(database: Database): Promise<InStatement[]> {
    if (this.#minutes.size === 0) return [];
    const { table, key, sums, greatest, sketches } = this.#shape;
    const keyColumns = ['step', 'at', ...key];
    const columns = [...keyColumns, ...sums, ...greatest, ...sketches];
    const cells = this.#allSteps();
    const rows = await jsonOf<unknown[]>(
      database,
      `SELECT json_group_array(json_array(${columns.map((column) => `m.${column}`).join(', ')})) FROM json_each(?) k JOIN ${table} m
        ON ${keyColumns.map((column, i) => `m.${column} = k.value->>${i}`).join(' AND ')}`,
      [JSON.stringify([...cells.values()].map((cell) => [cell.step, cell.at, ...cell.key]))]
    );
    for (const row of rows) {
      const [step, at, ...rest] = row.slice(0, keyColumns.length).map(Number);
      const cell = cells.get(nameOf(step, at, rest))!;
      let column = keyColumns.length;
      for (let i = 0; i < sums.length; i++) cell.sums[i] += Number(row[column++]);
      for (let i = 0; i < greatest.length; i++)
        cell.greatest[i] = Math.max(cell.greatest[i], Number(row[column++]));
      for (const sketch of cell.sketches) mergeInto(sketch, readSketch(String(row[column++])));
    }
    const changed = [...cells.values()].map((cell) => [
      cell.step,
      cell.at,
      ...cell.key,
      ...cell.sums,
      ...cell.greatest,
      ...cell.sketches.map(writeSketch)
    ]);
    return [bulkInsert('INSERT OR REPLACE', table, columns, changed)];
  }

  /** The minutes' changes at every step and under every margin. */
  #allSteps(): Map<string, Cell> {
    const { steps, margins, key: names } = this.#shape;
    const cells = new Map<string, Cell>();
    for (const minute of this.#minutes.values()) {
      const keys = [
        minute.key,
        ...margins.map((margin) => minute.key.map((id, i) => margin[names[i]] ?? id))
      ];
      for (const step of steps) {
        const at = Math.floor(minute.at / step);
        for (const key of keys) merge(this.#cell(cells, step, at, key), minute);
      }
    }
    return cells;
  }

  #cell(cells: Map<string, Cell>, step: number, at: number, key: number[]): Cell {
    const name = nameOf(step, at, key);
    let cell = cells.get(name);
    if (!cell) {
      const { sums, greatest, sketches } = this.#shape;
      cell = {
        step,
        at,
        key,
        sums: new Array<number>(sums.length).fill(0),
        greatest: new Array<number>(greatest.length).fill(0),
        sketches: sketches.map(emptySketch)
      };
      cells.set(name, cell);
    }
    return cell;
  }
}

const nameOf = (step: number, at: number, key: readonly number[]): string => `${step} ${at} ${key.join(' ')}`;

function merge(target: Cell, source: Cell): void {
  for (let i = 0; i < source.sums.length; i++) target.sums[i] += source.sums[i];
  for (let i = 0; i < source.greatest.length; i++)
    target.greatest[i] = Math.max(target.greatest[i], source.greatest[i]);
  source.sketches.forEach((sketch, i) => mergeInto(target.sketches[i], sketch));
}
