import { lowerBoundBy } from '../binary-search';
import type { ByteCursor } from './byte-source';
import type { DuplicateString, HeapDump } from './heap-index';
import { greatest } from './top';

/** Hashes of the contents of arrays that may hold characters, by their object: two of 32 bits, so that chance finds no two alike. */
export class StringHashes {
  readonly objects: Uint32Array;
  readonly first: Uint32Array;
  readonly second: Uint32Array;
  #length = 0;

  constructor(count: number) {
    this.objects = new Uint32Array(count);
    this.first = new Uint32Array(count);
    this.second = new Uint32Array(count);
  }

  /** Reads the content, which lies at the cursor. */
  add(object: number, cursor: ByteCursor, bytes: number): void {
    // FNV-1a, and the same by another prime (source: Fowler, Noll, Vo).
    let a = 0x811c9dc5;
    let b = bytes;
    for (let left = bytes; left > 0;) {
      const some = Math.min(left, cursor.some());
      const { bytes: window, at } = cursor;
      for (let i = at; i < at + some; i++) {
        a = Math.imul(a ^ window[i], 0x01000193);
        b = Math.imul(b ^ window[i], 0x5bd1e995) + 1;
      }
      cursor.at += some;
      left -= some;
    }
    if (this.#length >= this.objects.length) return;
    this.objects[this.#length] = object;
    this.first[this.#length] = a;
    this.second[this.#length++] = b;
  }

  /** Place of an array's hashes; −1 where it has none. Objects came in rising order. */
  placeOf(object: number): number {
    const low = lowerBoundBy(this.#length, (at) => this.objects[at], object);
    return low < this.#length && this.objects[low] === object ? low : -1;
  }
}

/** Repeated strings that are listed by default; there may be a million. */
export const MOST_STRINGS = 200;

/**
 * Groups strings by the content of their arrays. An array that several strings share counts once.
 * @param most strings listed.
 */
export function duplicateStrings(
  strings: Uint32Array,
  arrays: Uint32Array,
  hashes: StringHashes,
  shallow: Uint32Array,
  most: number
): Pick<HeapDump, 'duplicates' | 'duplicateGroups' | 'duplicateBytes'> {
  const groups = new ContentGroups(hashes, strings.length);
  const seen = new Uint8Array(hashes.objects.length);
  for (let i = 0; i < strings.length; i++) {
    const place = hashes.placeOf(arrays[i]);
    if (place < 0) continue;
    const own = shallow[strings[i]];
    const whole = own + shallow[arrays[i]];
    // Arrays of one content are equally long: a copy costs the text, and the array unless it is shared.
    groups.add(place, strings[i], seen[place] ? own : whole, whole);
    seen[place] = 1;
  }
  return groups.repeated(most);
}

/** Groups of equal hashes, by open addressing in flat arrays: there are millions of strings. */
class ContentGroups {
  readonly #hashes: StringHashes;
  /** Slot → group + 1; 0 where it is free. */
  readonly #slots: Int32Array;
  readonly #place: Int32Array;
  readonly #sample: Uint32Array;
  readonly #count: Uint32Array;
  readonly #bytes: Float64Array;
  readonly #first: Float64Array;
  #groups = 0;

  constructor(hashes: StringHashes, most: number) {
    this.#hashes = hashes;
    this.#slots = new Int32Array(2 ** Math.ceil(Math.log2(Math.max(16, most * 2))));
    this.#place = new Int32Array(most);
    this.#sample = new Uint32Array(most);
    this.#count = new Uint32Array(most);
    this.#bytes = new Float64Array(most);
    this.#first = new Float64Array(most);
  }

  add(place: number, text: number, bytes: number, whole: number): void {
    const { first, second } = this.#hashes;
    const mask = this.#slots.length - 1;
    let slot = Math.imul(first[place] ^ (second[place] >>> 7), 0x9e3779b1) & mask;
    for (; this.#slots[slot] !== 0; slot = (slot + 1) & mask) {
      const group = this.#slots[slot] - 1;
      const known = this.#place[group];
      if (first[known] !== first[place] || second[known] !== second[place]) continue;
      this.#count[group]++;
      this.#bytes[group] += bytes;
      return;
    }
    const group = this.#groups++;
    this.#slots[slot] = group + 1;
    this.#place[group] = place;
    this.#sample[group] = text;
    this.#count[group] = 1;
    this.#bytes[group] = bytes;
    this.#first[group] = whole;
  }

  repeated(most: number): Pick<HeapDump, 'duplicates' | 'duplicateGroups' | 'duplicateBytes'> {
    const found: number[] = [];
    let duplicateBytes = 0;
    const wasted = (group: number): number => Math.max(0, this.#bytes[group] - this.#first[group]);
    for (let group = 0; group < this.#groups; group++) {
      if (this.#count[group] < 2) continue;
      found.push(group);
      duplicateBytes += wasted(group);
    }
    const duplicates = greatest(found, wasted, 0, most).map((group): DuplicateString => ({
      sample: this.#sample[group],
      count: this.#count[group],
      wastedBytes: wasted(group)
    }));
    return { duplicates, duplicateGroups: found.length, duplicateBytes };
  }
}
