import { lowerBound } from '../binary-search';
import type { ByteSource } from './byte-source';
import type { HeapStore } from './heap-store';
import { textOfObject } from './object-facts';

/** Bytes looked through at a time. */
const PIECE = 4 * 1024 * 1024;
/** Characters of a text in which what is sought must stand. */
const LOOKED_AT = 100_000;

/**
 * Text objects that hold a text, letters of either case alike, in the order of the dump. The dump itself is looked through by its bytes,
 * which is a thousand times faster than reading object by object; only where it stands there an object is read.
 * @param most of them.
 */
export function textsHolding(store: HeapStore, sought: string, most: number): number[] {
  if (sought === '') return [];
  const found = store.meta.format === 'hprof' ? javaTexts(store, sought) : snapshotTexts(store, sought);
  const objects: number[] = [];
  for (const object of found) {
    objects.push(object);
    if (objects.length >= most) break;
  }
  return objects.sort((a, b) => a - b);
}

const holds = (store: HeapStore, object: number, sought: string): boolean =>
  textOfObject(store, object, LOOKED_AT)?.toLowerCase().includes(sought.toLowerCase()) ?? false;

/** A snapshot has each text once, as JSON writes it, and objects name it by its number. */
function* snapshotTexts(store: HeapStore, sought: string): Generator<number> {
  const positions = store.column('textPosition');
  const nodeName = store.column('nodeName');
  const hit = new Uint8Array(positions.length);
  // V8 writes signs beyond ASCII by their numbers, other writers of JSON as they are.
  const plain = JSON.stringify(sought).slice(1, -1);
  const byNumber = plain.replace(
    /[^ -~]/g,
    (sign) => `\\u${sign.charCodeAt(0).toString(16).padStart(4, '0')}`
  );
  const needles = [...new Set([plain, byNumber])].map((one) => new TextEncoder().encode(one));
  for (const place of placesOf(store.source, positions[0] ?? Infinity, needles))
    hit[lastUpTo(positions, place)] = MAYBE;
  for (let object = 0; object < nodeName.length; object++) {
    const text = nodeName[object];
    // A number may also be the name of an object that is no text.
    if (hit[text] === 0 || hit[text] === NO || textOfObject(store, object, 1) === null) continue;
    if (hit[text] === MAYBE) hit[text] = holds(store, object, sought) ? YES : NO;
    if (hit[text] === YES) yield object;
  }
}

const MAYBE = 1;
const YES = 2;
const NO = 3;

/** In a JVM's dump the characters stand in an array, one or two bytes each, and texts refer to it. */
function* javaTexts(store: HeapStore, sought: string): Generator<number> {
  const positions = store.column('position');
  const kind = store.column('kind');
  const start = store.column('referrerStart');
  const referrers = store.column('referrers');
  const wide = (littleEndian: boolean): Uint8Array => {
    const view = new DataView(new ArrayBuffer(sought.length * 2));
    for (let i = 0; i < sought.length; i++) view.setUint16(i * 2, sought.charCodeAt(i), littleEndian);
    return new Uint8Array(view.buffer);
  };
  const narrow = Uint8Array.from(sought, (sign) => sign.charCodeAt(0));
  const isNarrow = [...sought].every((sign) => sign.charCodeAt(0) < 256);
  const needles = [wide(true), wide(false), ...(isNarrow ? [narrow] : [])];
  let last = -1;
  for (const place of placesOf(store.source, positions[0] ?? Infinity, needles)) {
    const array = lastUpTo(positions, place);
    if (array === last || kind[array] !== PRIMITIVES) continue;
    last = array;
    for (let i = start[array]; i < start[array + 1]; i++)
      if (holds(store, referrers[i], sought)) yield referrers[i];
  }
}

/** Kind of an array of primitives (see `HeapColumns`). */
const PRIMITIVES = 2;

/**
 * Where any of some byte sequences begins, ascending; ASCII letters of either case are alike. Bytes are taken for characters one by one, so
 * that the language's own search does the work; whatever else its case folding takes for alike has to be looked at again.
 */
export function* placesOf(
  source: ByteSource,
  from: number,
  needles: readonly Uint8Array[]
): Generator<number> {
  const decoder = new TextDecoder('latin1');
  const wanted = needles.map((needle) => decoder.decode(needle).toLowerCase());
  const longest = wanted.reduce((most, { length }) => Math.max(most, length), 1);
  const bytes = new Uint8Array(PIECE + longest - 1);
  for (let base = from; base < source.length; base += PIECE) {
    const got = source.read(base, bytes);
    const text = decoder.decode(bytes.subarray(0, got)).toLowerCase();
    const next = wanted.map((one) => text.indexOf(one));
    for (;;) {
      let first = -1;
      for (let i = 0; i < next.length; i++)
        if (next[i] >= 0 && (first < 0 || next[i] < next[first])) first = i;
      // What begins beyond the piece is found as part of the next.
      if (first < 0 || next[first] >= PIECE) break;
      yield base + next[first];
      next[first] = text.indexOf(wanted[first], next[first] + 1);
    }
  }
}

/** Index of the last of ascending integers that is not greater; −1 where all are. */
const lastUpTo = (sorted: Float64Array, value: number): number => lowerBound(sorted, value + 1) - 1;
