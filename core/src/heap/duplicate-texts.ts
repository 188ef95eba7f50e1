import type { ByteCursor } from './byte-source';
import type { DuplicateText, HeapDump } from './heap-index';

/** Hashes of the contents of arrays that may hold characters, by their object: two of 32 bits, so that chance finds no two alike. */
export class TextHashes {
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
    let low = 0;
    let high = this.#length;
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (this.objects[middle] < object) low = middle + 1;
      else high = middle;
    }
    return low < this.#length && this.objects[low] === object ? low : -1;
  }
}

/** Texts listed; there may be a million. */
const LISTED = 200;

/** Groups texts by the content of their arrays. An array that several texts share counts once. */
export function duplicateTexts(
  texts: readonly number[],
  arrays: readonly number[],
  hashes: TextHashes,
  shallow: Uint32Array
): Pick<HeapDump, 'duplicates' | 'duplicateGroups' | 'duplicateBytes'> {
  interface Group {
    sample: number;
    count: number;
    bytes: number;
    least: number;
  }
  const groups = new Map<number, Map<number, Group>>();
  const seenArray = new Set<number>();
  for (let i = 0; i < texts.length; i++) {
    const place = hashes.placeOf(arrays[i]);
    if (place < 0) continue;
    const array = arrays[i];
    const own = shallow[texts[i]];
    const whole = own + shallow[array];
    // Arrays of one content are equally long: a copy costs the text, and the array unless it is shared.
    const bytes = seenArray.has(array) ? own : whole;
    seenArray.add(array);
    let bySecond = groups.get(hashes.first[place]);
    if (!bySecond) groups.set(hashes.first[place], (bySecond = new Map()));
    const group = bySecond.get(hashes.second[place]);
    if (group) {
      group.count++;
      group.bytes += bytes;
    } else bySecond.set(hashes.second[place], { sample: texts[i], count: 1, bytes, least: whole });
  }
  const repeated: DuplicateText[] = [];
  let duplicateGroups = 0;
  let duplicateBytes = 0;
  for (const bySecond of groups.values()) {
    for (const { sample, count, bytes, least } of bySecond.values()) {
      if (count < 2) continue;
      const wastedBytes = Math.max(0, bytes - least);
      duplicateGroups++;
      duplicateBytes += wastedBytes;
      repeated.push({ sample, value: null, count, wastedBytes });
    }
  }
  repeated.sort((a, b) => b.wastedBytes - a.wastedBytes || b.count - a.count);
  return { duplicates: repeated.slice(0, LISTED), duplicateGroups, duplicateBytes };
}
