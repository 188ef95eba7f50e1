import type { ColumnStore } from './column-store';
import type { ColumnName, HeapColumns } from './heap-store';

/** Numbers held before they are stored. */
const PIECE = 65_536;

/** A column that is written number by number, of which only the last piece is in memory. */
export class PiecewiseColumn<K extends ColumnName> {
  readonly #store: ColumnStore;
  readonly #name: K;
  readonly #piece: HeapColumns[K];
  #held = 0;
  #stored = 0;

  constructor(store: ColumnStore, name: K, make: new (length: number) => HeapColumns[K]) {
    this.#store = store;
    this.#name = name;
    this.#piece = new make(PIECE);
  }

  push(value: number): void {
    this.#piece[this.#held++] = value;
    if (this.#held === PIECE) this.#flush();
  }

  #flush(): void {
    this.#store.append(this.#name, this.#piece.subarray(0, this.#held) as HeapColumns[K]);
    this.#stored += this.#held;
    this.#held = 0;
  }

  /** Stores what is left, and 0 up to a length. @returns how many numbers there are. */
  finish(length = 0): number {
    while (this.#stored + this.#held < length) this.push(0);
    this.#flush();
    return this.#stored;
  }
}
