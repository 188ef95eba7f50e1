import type { ByteSource } from './byte-source';
import { COLUMN_TYPES, type ColumnAccess, type ColumnName, type HeapColumns } from './heap-store';

/** Values of a page, and pages of a column that are held. */
const PAGE = 4096;
const PAGES = 64;

type Values = HeapColumns[ColumnName];

/** A column that stays in its file: values are read with the page around them. */
class PagedColumn {
  readonly #name: ColumnName;
  readonly #source: ByteSource;
  readonly #pages = new Map<number, Values>();
  #last = -1;
  #values: Values = new Uint8Array();

  constructor(name: ColumnName, source: ByteSource) {
    this.#name = name;
    this.#source = source;
  }

  at(index: number): number {
    const page = Math.floor(index / PAGE);
    return this.#page(page)[index - page * PAGE];
  }

  range(from: number, to: number): Values {
    const part = new COLUMN_TYPES[this.#name](Math.max(0, to - from));
    let at = from;
    while (at < to) {
      const page = Math.floor(at / PAGE);
      const values = this.#page(page).subarray(at - page * PAGE, to - page * PAGE);
      if (values.length === 0) break;
      part.set(values, at - from);
      at += values.length;
    }
    return part.subarray(0, at - from);
  }

  #page(page: number): Values {
    if (page === this.#last) return this.#values;
    let values = this.#pages.get(page);
    if (values) this.#pages.delete(page);
    else values = readValues(this.#source, this.#name, page * PAGE, PAGE);
    this.#pages.set(page, values);
    if (this.#pages.size > PAGES) this.#pages.delete(this.#pages.keys().next().value!);
    this.#last = page;
    return (this.#values = values);
  }
}

/** Values of a stored column from an index on, as many as there are. */
function readValues(source: ByteSource, name: ColumnName, from: number, most: number): Values {
  const size = COLUMN_TYPES[name].BYTES_PER_ELEMENT;
  const bytes = new Uint8Array(Math.max(0, Math.min(most * size, source.length - from * size)));
  for (let at = 0; at < bytes.length;) {
    const got = source.read(from * size + at, bytes.subarray(at, at + MOST_READ));
    if (got === 0) throw new Error(`The column ${name} ends early.`);
    at += got;
  }
  return new COLUMN_TYPES[name](bytes.buffer);
}

/** Bytes read at once: one call takes no more than 2 GiB. */
const MOST_READ = 256 * 1024 * 1024;

/**
 * Columns of an index for who has little memory: single values come from pages, and of the whole columns only those asked for last are held.
 * @param sourceOf where the bytes of a column lie; asked once for each.
 * @param maxBytes of whole columns that are held; the last one asked for always is.
 * @param reclaim called when one has been let go.
 */
export function sparingColumns(
  sourceOf: (name: ColumnName) => ByteSource,
  maxBytes: number,
  reclaim: () => void
): ColumnAccess {
  const whole = new Map<ColumnName, Values>();
  const paged = new Map<ColumnName, PagedColumn>();
  let newest: ColumnName | undefined;
  let held = 0;
  const sources = new Map<ColumnName, ByteSource>();
  const opened = (name: ColumnName): ByteSource => {
    let source = sources.get(name);
    if (!source) sources.set(name, (source = sourceOf(name)));
    return source;
  };
  const pagedColumn = (name: ColumnName): PagedColumn => {
    let column = paged.get(name);
    if (!column) paged.set(name, (column = new PagedColumn(name, opened(name))));
    return column;
  };
  const makeRoom = (bytes: number): void => {
    const before = held;
    for (const [name, { byteLength }] of whole) {
      if (held + bytes <= maxBytes) break;
      whole.delete(name);
      held -= byteLength;
    }
    if (held < before) reclaim();
  };
  return {
    column<K extends ColumnName>(name: K): HeapColumns[K] {
      let values = whole.get(name);
      if (values && name === newest) return values as HeapColumns[K];
      if (values) whole.delete(name);
      else {
        const source = opened(name);
        makeRoom(source.length);
        values = readValues(source, name, 0, Infinity);
        held += values.byteLength;
      }
      newest = name;
      whole.set(name, values);
      return values as HeapColumns[K];
    },
    at: (name, index) => whole.get(name)?.[index] ?? pagedColumn(name).at(index),
    range: (name, from, to) =>
      (whole.get(name)?.slice(from, to) ?? pagedColumn(name).range(from, to)) as never
  };
}
