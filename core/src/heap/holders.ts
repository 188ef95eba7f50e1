import type { HeapStore } from './heap-store';
import { className, nameOfReference, objectFacts, textOfNumber } from './object-facts';
import { greatest } from './top';

/** Objects of one class that one object keeps directly. */
export interface KeptGroup {
  className: string;
  own: boolean;
  count: number;
  shallowBytes: number;
  retainedBytes: number;
  /** The one that retains most. */
  sample: number;
}

/** Children of an object in the dominator tree (`count` for the super-root). */
export function keptBy(store: HeapStore, object: number): Uint32Array {
  return store.range('children', store.at('childStart', object), store.at('childStart', object + 1));
}

/** What an object keeps directly, folded by class, most retained first. */
export function keptGroups(store: HeapStore, object: number): KeptGroup[] {
  return groupsOf(store, keptBy(store, object));
}

export function groupsOf(store: HeapStore, objects: ArrayLike<number>): KeptGroup[] {
  const classOf = store.column('classOf');
  const shallow = store.column('shallow');
  const retained = store.column('retained');
  const groups = new Map<number, KeptGroup>();
  for (let i = 0; i < objects.length; i++) {
    const object = objects[i];
    const { name, own } = store.meta.classes[classOf[object]];
    let group = groups.get(classOf[object]);
    if (!group) {
      group = { className: name, own, count: 0, shallowBytes: 0, retainedBytes: 0, sample: object };
      groups.set(classOf[object], group);
    }
    group.count++;
    group.shallowBytes += shallow[object];
    group.retainedBytes += retained[object];
    if (retained[object] > retained[group.sample]) group.sample = object;
  }
  return [...groups.values()].sort((a, b) => b.retainedBytes - a.retainedBytes);
}

/** Everything below an object in the dominator tree, itself too, by class: what its retained size is made of. */
export function composition(store: HeapStore, object: number): KeptGroup[] {
  const start = store.column('childStart');
  const children = store.column('children');
  const open = [object];
  const all: number[] = [];
  while (open.length > 0) {
    const at = open.pop()!;
    all.push(at);
    for (let i = start[at]; i < start[at + 1]; i++) open.push(children[i]);
  }
  return groupsOf(store, all).sort((a, b) => b.shallowBytes - a.shallowBytes);
}

/** Of an object's retained size, from which one child is said to be all there is to it. */
const DOMINANT_SHARE = 0.7;

/** A path down the dominator tree, always to the child that keeps nearly all; it ends where many keep it together. */
export interface Holder {
  /** From the object at the top to the one that keeps many. */
  path: number[];
  retained: number;
  /** The developers' own name of it: class and field, as `TideCache.windows`. */
  name: string;
  /** The object whose field that is; the top where none is the program's own. */
  owner: number;
  /** How many the last one keeps directly. */
  entries: number;
}

/** Longest path down. */
const MAX_PATH = 64;

export function holderFrom(store: HeapStore, top: number): Holder {
  const retained = store.column('retained');
  const path = [top];
  for (let at = top; path.length < MAX_PATH;) {
    const [heaviest] = greatest(keptBy(store, at), (object) => retained[object], 0, 1);
    if (heaviest === undefined || retained[heaviest] < DOMINANT_SHARE * retained[at]) break;
    path.push((at = heaviest));
  }
  const { owner, name } = nameOfHolder(store, path);
  return { path, retained: retained[top], name, owner, entries: keptBy(store, path.at(-1)!).length };
}

/** The class of an object; of a class itself its own name, which is what its statics go by. */
export function nameOfObject(store: HeapStore, object: number): string {
  const name = className(store, object);
  if (name === '(synthetic)' && store.meta.format !== 'hprof')
    return textOfNumber(store, store.at('nodeName', object), 80) || 'root';
  if (store.meta.format !== 'hprof' || store.at('kind', object) !== 3) return name;
  const id = store.at('ids', object);
  return store.meta.layout?.classes.find((one) => one.id === id)?.name ?? name;
}

export function isOwn(store: HeapStore, object: number): boolean {
  const { classes } = store.meta;
  if (classes[store.at('classOf', object)].own) return true;
  if (store.meta.format !== 'hprof' || store.at('kind', object) !== 3) return false;
  return classes.find(({ name }) => name === nameOfObject(store, object))?.own ?? false;
}

export const shortClassName = (name: string): string => name.slice(name.lastIndexOf('.') + 1);

/** The last of the program's own objects on a path, with the field that leads on from it. */
function nameOfHolder(store: HeapStore, path: readonly number[]): { owner: number; name: string } {
  for (let i = path.length - 1; i >= 0; i--) {
    if (!isOwn(store, path[i])) continue;
    const short = shortClassName(nameOfObject(store, path[i])).replace(/^.*\$(?=\D)/, '');
    const field =
      i + 1 < path.length ? nameOfReference(store, path[i], path[i + 1]).replace(/^static /, '') : '';
    return { owner: path[i], name: field ? `${short}.${field}` : short };
  }
  // None is the program's own: what leads to the top names it best.
  const [top] = path;
  const before = store.at('before', top);
  const name = shortClassName(nameOfObject(store, top));
  if (before < 0) return { owner: top, name };
  const field = nameOfReference(store, before, top);
  return {
    owner: top,
    name: /^[A-Za-z_$][\w$]*$/.test(field) ? `${shortClassName(nameOfObject(store, before))}.${field}` : name
  };
}

/** A box of the picture of what holds the heap. */
export interface HolderBox {
  name: string;
  /** −1 for what is left over. */
  object: number;
  count: number;
  retainedBytes: number;
  own: boolean;
  inside: KeptGroup[];
}

/** A part of the heap from which an object has a box of its own. */
const BOX_SHARE = 0.01;
const MOST_BOXES = 24;
const MOST_INSIDE = 8;
/** The rest is opened while it is so large. */
const REST_SHARE = 0.2;
const MOST_GROUPS = 200;

/** Who holds the heap: the largest objects of the dominator tree, what they are made of, and the rest by class. */
export function holderMap(store: HeapStore): HolderBox[] {
  const { count, liveBytes } = store.meta;
  const retained = store.column('retained');
  const tops = spreadTops(store, keptBy(store, count));
  const large = greatest(tops, (object) => retained[object], 0, MOST_BOXES).filter(
    (object) => retained[object] >= BOX_SHARE * liveBytes
  );
  const boxes = large.map((top): HolderBox => {
    const { name, owner } = holderFrom(store, top);
    // The box is of the object it is called after; what is above it has no more than it, and goes to the rest.
    return {
      name,
      object: owner,
      count: 1,
      retainedBytes: retained[owner],
      own: isOwn(store, owner),
      inside: composition(store, owner).slice(0, MOST_INSIDE)
    };
  });
  const chosen = new Set(large);
  const rest = groupsOf(
    store,
    tops.filter((object) => !chosen.has(object))
  );
  let left = liveBytes - boxes.reduce((sum, box) => sum + box.retainedBytes, 0);
  for (const group of rest.slice(0, MOST_GROUPS)) {
    // Small ones are shown as far as it takes for the rest to be no large part itself.
    if (group.retainedBytes < BOX_SHARE * liveBytes && left < REST_SHARE * liveBytes) break;
    left -= group.retainedBytes;
    boxes.push({
      name: shortClassName(group.className),
      object: group.sample,
      count: group.count,
      retainedBytes: group.retainedBytes,
      own: group.own,
      inside: []
    });
  }
  if (left > 0)
    boxes.push({ name: 'the rest', object: -1, count: 0, retainedBytes: left, own: false, inside: [] });
  return boxes.sort((a, b) => (a.object < 0 ? 1 : b.object < 0 ? -1 : b.retainedBytes - a.retainedBytes));
}

/** One top that holds nearly all (V8's root, a loader) tells nothing: what it keeps stands in its place. */
function spreadTops(store: HeapStore, tops: Uint32Array): number[] {
  const retained = store.column('retained');
  let list = Array.from(tops);
  for (let round = 0; round < 4; round++) {
    const wide = list.find(
      (object) => retained[object] > 0.9 * store.meta.liveBytes && isBroad(store, object)
    );
    if (wide === undefined) return list;
    list = list.filter((object) => object !== wide).concat(Array.from(keptBy(store, wide)));
  }
  return list;
}

/** Keeps several large things, and is the machine's. */
function isBroad(store: HeapStore, object: number): boolean {
  if (isOwn(store, object)) return false;
  const { path, entries } = holderFrom(store, object);
  return path.length === 1 && entries > 1;
}

/** The path by which an object is held, each step with the name of the reference that leads on. */
export function stepsOf(
  store: HeapStore,
  path: readonly number[]
): { object: number; className: string; own: boolean; retained: number; via: string; root: string }[] {
  const retained = store.column('retained');
  return path.map((object, i) => ({
    object,
    className: nameOfObject(store, object),
    own: isOwn(store, object),
    retained: retained[object],
    via: i > 0 ? nameOfReference(store, path[i - 1], object) : '',
    root: i === 0 ? objectFacts(store, object, 0, 0).root : ''
  }));
}
