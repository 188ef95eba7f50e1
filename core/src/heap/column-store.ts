import { COLUMN_TYPES, type ColumnName, type HeapColumns } from './heap-store';

/**
 * Where columns go as soon as they are known, so that they need not stay in memory, and whence they come back when they are needed
 * again: files on the server.
 */
export interface ColumnStore {
  /** Stores a whole column; it may be overwritten afterwards. */
  put: <K extends ColumnName>(name: K, column: HeapColumns[K]) => void;
  /** Stores a column piece by piece; the piece may be overwritten afterwards. */
  append: <K extends ColumnName>(name: K, piece: HeapColumns[K]) => void;
  /** A column that was stored, to be read only. One that never was is empty. */
  get: <K extends ColumnName>(name: K) => HeapColumns[K];
}

/** Columns in memory. */
export class MemoryColumns implements ColumnStore {
  readonly #whole = new Map<ColumnName, HeapColumns[ColumnName]>();
  readonly #pieces = new Map<ColumnName, HeapColumns[ColumnName][]>();

  put<K extends ColumnName>(name: K, column: HeapColumns[K]): void {
    this.#pieces.delete(name);
    this.#whole.set(name, column.slice());
  }

  append<K extends ColumnName>(name: K, piece: HeapColumns[K]): void {
    const pieces = this.#pieces.get(name) ?? [];
    this.#pieces.set(name, pieces);
    pieces.push(piece.slice());
  }

  get<K extends ColumnName>(name: K): HeapColumns[K] {
    const pieces = this.#pieces.get(name) ?? [];
    if (pieces.length > 0) {
      this.#pieces.delete(name);
      this.#whole.set(name, joined(name, pieces));
    }
    return (this.#whole.get(name) ?? new COLUMN_TYPES[name](0)) as HeapColumns[K];
  }
}

function joined(name: ColumnName, pieces: readonly HeapColumns[ColumnName][]): HeapColumns[ColumnName] {
  const whole = new COLUMN_TYPES[name](pieces.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const piece of pieces) {
    whole.set(piece, at);
    at += piece.length;
  }
  return whole;
}
