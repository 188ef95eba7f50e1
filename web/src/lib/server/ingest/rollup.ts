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

type Figures<Source> = Readonly<Record<string, (source: Source) => number>>;
/** Bucket counts. */
export type Buckets = Iterable<readonly [number, number]>;

/** A table of sums over time: its columns, and what one source adds to each. */
export interface RollupShape<Source> {
  table: string;
  /** The minute a source belongs to. */
  minute: (source: Source) => number;
  /** Columns of the key after `step` and `at`. */
  key: Figures<Source>;
  sums: Figures<Source>;
  /** Columns of which the greatest counts. Taking a source out again leaves them as they are. */
  greatest: Figures<Source>;
  sketches: Readonly<Record<string, (source: Source) => Buckets>>;
  steps: readonly Step[];
  /** Further keys each row is summed under: what the key columns become there. */
  margins: readonly Readonly<Record<string, number>>[];
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
export class RollupDelta<Source> {
  readonly #shape: RollupShape<Source>;
  readonly #key: ((source: Source) => number)[];
  readonly #sums: ((source: Source) => number)[];
  readonly #greatest: ((source: Source) => number)[];
  readonly #sketches: ((source: Source) => Buckets)[];
  readonly #minutes = new Map<string, Cell>();

  constructor(shape: RollupShape<Source>) {
    this.#shape = shape;
    this.#key = Object.values(shape.key);
    this.#sums = Object.values(shape.sums);
    this.#greatest = Object.values(shape.greatest);
    this.#sketches = Object.values(shape.sketches);
  }

  /** The first minute anything was added to; Infinity for nothing. */
  get firstMinute(): number {
    let first = Infinity;
    for (const { at } of this.#minutes.values()) first = Math.min(first, at);
    return first;
  }

  /** @param sign −1 takes a source out again that was added before. */
  add(source: Source, sign: 1 | -1): void {
    const key = this.#key.map((of) => of(source));
    const cell = this.#cell(this.#minutes, 1, this.#shape.minute(source), key);
    this.#sums.forEach((of, i) => (cell.sums[i] += sign * of(source)));
    if (sign > 0)
      this.#greatest.forEach((of, i) => (cell.greatest[i] = Math.max(cell.greatest[i], of(source))));
    this.#sketches.forEach((of, i) => {
      for (const [bucket, count] of of(source)) addBucket(cell.sketches[i], bucket, sign * count);
    });
  }

  /** Reads the stored rows these changes belong to and gives the statements that write them back with the changes in. */
  async statements(database: Database): Promise<InStatement[]> {
    if (this.#minutes.size === 0) return [];
    const { table, key, sums, greatest, sketches } = this.#shape;
    const keyColumns = ['step', 'at', ...Object.keys(key)];
    const columns = [...keyColumns, ...[sums, greatest, sketches].flatMap((of) => Object.keys(of))];
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
      for (let i = 0; i < cell.sums.length; i++) cell.sums[i] += Number(row[column++]);
      for (let i = 0; i < cell.greatest.length; i++)
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
    const { steps, margins } = this.#shape;
    const names = Object.keys(this.#shape.key);
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
      cell = {
        step,
        at,
        key,
        sums: new Array<number>(this.#sums.length).fill(0),
        greatest: new Array<number>(this.#greatest.length).fill(0),
        sketches: this.#sketches.map(emptySketch)
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
