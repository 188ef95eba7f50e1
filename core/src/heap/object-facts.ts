import { ByteCursor, SMALL_WINDOW } from './byte-source';
import type { HeapStore } from './heap-store';
import { OBJECT_TYPE, readValue, TYPE_NAMES, typeSize } from './hprof-walk';
import { snapshotText } from './v8-snapshot';

/** A field, an element or another reference of an object. */
export interface Slot {
  name: string;
  /** Declared type, or the kind of reference. */
  type: string;
  /** Object it leads to; −1 for none. */
  to: number;
  /** A primitive value or null in words; '' for a reference. */
  value: string;
  /** Does not keep alive. */
  weak: boolean;
}

export interface ObjectFacts {
  object: number;
  id: number;
  className: string;
  own: boolean;
  shallow: number;
  retained: number;
  /** Object that keeps it; −1 where a root does, −2 where it is not alive. */
  keeper: number;
  /** Elements of an array; −1 for others. */
  length: number;
  /** What it says, where it is a text. */
  text: string | null;
  slots: Slot[];
  /** Of all slots, from where and how many. */
  from: number;
  slotCount: number;
  root: string;
}

/** Longest text shown. */
const MAX_TEXT = 2000;

export function className(store: HeapStore, object: number): string {
  return store.meta.classes[store.at('classOf', object)].name;
}

/** @param from, most the slots listed. */
export function objectFacts(store: HeapStore, object: number, from = 0, most = 100): ObjectFacts {
  const known = store.meta.classes[store.at('classOf', object)];
  const idom = store.at('idom', object);
  const { slots, slotCount, length } =
    store.meta.format === 'hprof' ? javaSlots(store, object, from, most) : v8Slots(store, object, from, most);
  return {
    object,
    id: store.at('ids', object),
    className: known.name,
    own: known.own,
    shallow: store.at('shallow', object),
    retained: store.at('retained', object),
    keeper: idom === store.meta.count ? -1 : idom < 0 ? -2 : idom,
    length,
    text: textOfObject(store, object, MAX_TEXT),
    slots,
    from,
    slotCount,
    root: rootOf(store, object)
  };
}

/** Why an object is a root; '' where it is none. */
export function rootOf(store: HeapStore, object: number): string {
  const place = store.column('roots').indexOf(object);
  return place < 0 ? '' : store.meta.rootKinds[store.at('rootKind', place)].kind;
}

/** A text of a V8 snapshot by its number, cut at so many characters. */
export const textOfNumber = (store: HeapStore, text: number, most: number): string =>
  snapshotText(store.source, store.range('textPosition', text, text + 2), most);

/** The text of a text object; null for others. */
export function textOfObject(store: HeapStore, object: number, most: number): string | null {
  if (store.meta.format !== 'hprof') {
    const name = className(store, object);
    if (
      !['(string)', '(concatenated string)', '(sliced string)', '(symbol)', '(number)', '(bigint)'].includes(
        name
      )
    )
      return null;
    return textOfNumber(store, store.at('nodeName', object), most);
  }
  if (className(store, object) !== 'java.lang.String') return null;
  const { slots } = javaSlots(store, object, 0, 20);
  const array = slots.find(({ name }) => name === 'value')?.to ?? -1;
  if (array < 0) return null;
  const cursor = new ByteCursor(store.source, store.at('position', array), SMALL_WINDOW);
  const { idSize } = store.meta.layout!;
  cursor.skip(1 + idSize + 4);
  const length = cursor.u4();
  const type = cursor.u1();
  const number = (name: string): number => Number(slots.find((slot) => slot.name === name)?.value ?? NaN);
  // Since JDK 9 texts are bytes, of one or of two a character (`coder`); before, characters; before JDK 7 a part of a shared array.
  if (type === 8 && number('coder') !== 1) {
    const bytes = take(cursor, Math.min(length, most));
    return ended(new TextDecoder('latin1').decode(bytes), length > most);
  }
  const first = type === 5 && Number.isFinite(number('offset')) ? number('offset') : 0;
  const characters = type === 8 ? length / 2 : Number.isFinite(number('count')) ? number('count') : length;
  cursor.skip(first * 2);
  const bytes = take(cursor, Math.min(characters, most) * 2);
  // The machine writes characters of `char[]` big-endian, and copies `byte[]` as they lie in memory (little-endian on usual machines).
  return ended(new TextDecoder(type === 5 ? 'utf-16be' : 'utf-16le').decode(bytes), characters > most);
}

const ended = (text: string, cut: boolean): string => (cut ? `${text}…` : text);

function take(cursor: ByteCursor, bytes: number): Uint8Array {
  cursor.ensure(bytes);
  const taken = cursor.bytes.slice(cursor.at, cursor.at + bytes);
  cursor.at += bytes;
  return taken;
}

interface Slots {
  slots: Slot[];
  slotCount: number;
  length: number;
}

/** References in a record come in the order of `edgeTo`, without those that are null, weak or lead nowhere. */
class EdgeFollower {
  readonly #store: HeapStore;
  readonly #edges: Uint32Array;
  readonly #weak: { id: number; to: number }[];
  #next = 0;

  constructor(store: HeapStore, object: number) {
    this.#store = store;
    this.#edges = edgesOf(store, object);
    this.#weak = weakOf(store, object).map((to) => ({ to, id: store.at('ids', to) }));
  }

  follow(id: number): { to: number; weak: boolean } {
    if (id === 0) return { to: -1, weak: false };
    if (this.#next < this.#edges.length && this.#store.at('ids', this.#edges[this.#next]) === id)
      return { to: this.#edges[this.#next++], weak: false };
    const weak = this.#weak.find((one) => one.id === id);
    return weak ? { to: weak.to, weak: true } : { to: -1, weak: false };
  }
}

/** Objects that an object refers to, in the order of its references. */
const edgesOf = (store: HeapStore, object: number): Uint32Array =>
  store.range('edgeTo', store.at('edgeStart', object), store.at('edgeStart', object + 1));

/** Weak references come in rising order of who has them. */
function weakOf(store: HeapStore, object: number): number[] {
  const from = store.column('weakFrom');
  let low = 0;
  let high = from.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (from[middle] < object) low = middle + 1;
    else high = middle;
  }
  const found: number[] = [];
  for (let i = low; i < from.length && from[i] === object; i++) found.push(store.at('weakTo', i));
  return found;
}

function javaSlots(store: HeapStore, object: number, from: number, most: number): Slots {
  const layout = store.meta.layout!;
  const { idSize } = layout;
  const cursor = new ByteCursor(store.source, store.at('position', object), SMALL_WINDOW);
  const edges = new EdgeFollower(store, object);
  const reference = (name: string, type: string, id: number): Slot => {
    const { to, weak } = edges.follow(id);
    const value = id === 0 ? 'null' : to < 0 ? 'not in the dump' : '';
    return { name, type, to, value, weak };
  };
  const tag = cursor.u1();
  const id = cursor.id(idSize);
  if (tag === 0x20) {
    // The record's references begin with the superclass and the loader, which follow the same way.
    const found = layout.classes.find((one) => one.id === id);
    cursor.u4();
    const slots = [
      reference('superclass', 'class', cursor.id(idSize)),
      reference('class loader', 'loader', cursor.id(idSize))
    ];
    for (const name of ['signers', 'protection domain', 'reserved', 'reserved']) {
      const slot = reference(name, 'object', cursor.id(idSize));
      if (slot.value !== 'null') slots.push(slot);
    }
    for (const { name, type, value } of found?.statics ?? [])
      slots.push(
        type === OBJECT_TYPE
          ? reference(`static ${name}`, 'object', value)
          : {
              name: `static ${name}`,
              type: TYPE_NAMES[type] ?? '',
              to: -1,
              value: valueWords(type, value),
              weak: false
            }
      );
    return { slots: slots.slice(from, from + most), slotCount: slots.length, length: -1 };
  }
  cursor.u4();
  if (tag === 0x22) {
    const length = cursor.u4();
    cursor.id(idSize);
    const slots: Slot[] = [];
    for (let i = 0; i < Math.min(length, from + most); i++) {
      const slot = reference(`[${i}]`, 'element', cursor.id(idSize));
      if (i >= from) slots.push(slot);
    }
    return { slots, slotCount: length, length };
  }
  if (tag === 0x23 || tag === 0xc3) {
    const length = cursor.u4();
    const type = cursor.u1();
    const slots: Slot[] = [];
    if (tag === 0x23) cursor.skip(Math.min(from, length) * typeSize(type, idSize)!);
    for (let i = from; i < Math.min(length, from + most) && tag === 0x23; i++)
      slots.push({
        name: `[${i}]`,
        type: TYPE_NAMES[type],
        to: -1,
        value: valueWords(type, readValue(cursor, type, idSize)),
        weak: false
      });
    return { slots, slotCount: length, length };
  }
  const classId = cursor.id(idSize);
  const end = cursor.u4() + cursor.position;
  const byId = classesById(layout);
  const slots: Slot[] = [];
  const seen = new Set<number>();
  for (let at = classId; byId.has(at) && !seen.has(at); at = byId.get(at)!.superId) {
    seen.add(at);
    for (const { name, type } of byId.get(at)!.fields) {
      if (cursor.position + typeSize(type, idSize)! > end) break;
      const value = readValue(cursor, type, idSize);
      slots.push(
        type === OBJECT_TYPE
          ? reference(name, 'object', value)
          : { name, type: TYPE_NAMES[type] ?? '', to: -1, value: valueWords(type, value), weak: false }
      );
    }
  }
  return { slots: slots.slice(from, from + most), slotCount: slots.length, length: -1 };
}

const byLayout = new WeakMap<
  object,
  Map<number, NonNullable<HeapStore['meta']['layout']>['classes'][number]>
>();
function classesById(
  layout: NonNullable<HeapStore['meta']['layout']>
): Map<number, (typeof layout.classes)[number]> {
  let known = byLayout.get(layout);
  if (!known) byLayout.set(layout, (known = new Map(layout.classes.map((one) => [one.id, one]))));
  return known;
}

function valueWords(type: number, value: number): string {
  if (type === 4) return value === 0 ? 'false' : 'true';
  if (type === 5) return value >= 32 ? `${String.fromCharCode(value)} (${value})` : String(value);
  return String(value);
}

function v8Slots(store: HeapStore, object: number, from: number, most: number): Slots {
  const types = store.meta.kinds?.edges ?? [];
  const weak = weakOf(store, object);
  const [begin, end] = [store.at('edgeStart', object), store.at('edgeStart', object + 1)];
  const slots: Slot[] = [];
  for (let i = begin + from; i < end && slots.length < most; i++) {
    const type = types[store.at('edgeType', i)] ?? '';
    const name = v8EdgeName(store, type, store.at('edgeName', i));
    slots.push({ name, type, to: store.at('edgeTo', i), value: '', weak: false });
  }
  for (const to of weak)
    if (slots.length < most) slots.push({ name: '(weak)', type: 'weak', to, value: '', weak: true });
  return { slots, slotCount: end - begin + weak.length, length: -1 };
}

function v8EdgeName(store: HeapStore, type: string, name: number): string {
  if (type === 'element' || type === 'hidden') return `[${name}]`;
  return textOfNumber(store, name, 200);
}

/** How one object refers to another: the name of the field, or of the element. */
export function nameOfReference(store: HeapStore, from: number, to: number): string {
  if (store.meta.format !== 'hprof') {
    const place = edgesOf(store, from).indexOf(to);
    if (place < 0) return '';
    const edge = store.at('edgeStart', from) + place;
    const kind = store.meta.kinds?.edges[store.at('edgeType', edge)] ?? '';
    return v8EdgeName(store, kind, store.at('edgeName', edge));
  }
  return slotNames(store, from).get(to) ?? '';
}

/** Names of the first slots that lead to each object. Many elements of one array are asked for: it is read once. */
function slotNames(store: HeapStore, from: number): Map<number, string> {
  let known = lastNamed.get(store);
  if (!known) lastNamed.set(store, (known = new Map()));
  let names = known.get(from);
  if (names) known.delete(from);
  else {
    names = new Map<number, string>();
    for (const slot of javaSlots(store, from, 0, MOST_SCANNED).slots)
      if (!names.has(slot.to)) names.set(slot.to, slot.name);
  }
  known.set(from, names);
  let held = [...known.values()].reduce((sum, { size }) => sum + size, 0);
  for (const [oldest, { size }] of known) {
    if (known.size <= MOST_NAMED && held <= 2 * MOST_SCANNED) break;
    if (oldest !== from) known.delete(oldest);
    held -= size;
  }
  return names;
}

/** Those asked for last: an array of which every element is asked for stays while each element's own fields come and go. */
const lastNamed = new WeakMap<HeapStore, Map<number, Map<number, string>>>();
const MOST_NAMED = 8;

/** Elements of an array looked through for a name. */
const MOST_SCANNED = 200_000;
