import type { HeapStore } from './heap-store';
import { isOwn, keptBy, nameOfObject, shortClassName } from './holders';
import { nameOfReference, rootOf } from './object-facts';
import { greatest } from './top';

/** From this part of the heap on an object, a static field, a global or a thread is said to hold it. */
export const HOLDER_MIN_SHARE = 0.2;
/** So many objects of one class, each held by the one before, are a chain and not a nesting somebody wrote by hand. Common practice. */
export const CHAIN_MIN_LENGTH = 1000;

/** Like objects each of which holds the next. */
export interface Chain {
  className: string;
  count: number;
  /** The field that leads on. */
  via: string;
}

/** What keeps a good part of the heap, whatever lies between it and what it keeps. */
export interface BigHolder {
  /** As the developers call it: `TideCache.windows`, `global.registry`, or a thread’s class. */
  name: string;
  /** The object it is; of a static field its value. */
  object: number;
  className: string;
  /** How it is held: the class and field, or the kind of thing. */
  via: string;
  retainedBytes: number;
  /** Of all that is alive. */
  share: number;
  /** From the holder down, always to the child that keeps nearly all. */
  path: number[];
  chain: Chain | null;
}

/** Of what an object keeps, from which part on one child is all there is to it. */
const NEARLY_ALL = 0.7;
const MAX_PATH = 64;
/** Steps of a path in a row that hold nothing of their own: a loader, its list of classes, a class. */
const MAX_STEPS = 24;

/**
 * The holders of a heap: what keeps at least a fifth of it. From the roots down the dominator tree; class loaders, class objects and V8's synthetic
 * roots lie on the path but are not holders, nor is what only leads on to one. Most bytes first.
 */
export function bigHolders(store: HeapStore): BigHolder[] {
  const { count, liveBytes } = store.meta;
  const retained = store.column('retained');
  const least = HOLDER_MIN_SHARE * liveBytes;
  const found: BigHolder[] = [];
  const open = heavy(store, count, least).map((object) => ({ object, steps: 0 }));
  for (let next = open.pop(); next; next = open.pop()) {
    const { object, steps } = next;
    const inside = heavy(store, object, least);
    const passesOn =
      inside.length > 0 && retained[object] - inside.reduce((sum, one) => sum + retained[one], 0) < least;
    if (isWay(store, object) || (passesOn && inside.length > 1)) {
      // A class keeps by its statics, each of which stands for itself.
      if (steps < MAX_STEPS) open.push(...inside.map((one) => ({ object: one, steps: steps + 1 })));
      continue;
    }
    found.push(describe(store, object));
  }
  return found.sort((a, b) => b.retainedBytes - a.retainedBytes);
}

const heavy = (store: HeapStore, object: number, least: number): number[] => {
  const retained = store.column('retained');
  return greatest(keptBy(store, object), (one) => retained[one], 0, 8).filter(
    (one) => retained[one] >= least
  );
};

/** What leads to holders and is none: a class loader, a class, a synthetic root or table of V8. */
function isWay(store: HeapStore, object: number): boolean {
  const name = store.meta.classes[store.at('classOf', object)].name;
  if (store.meta.format === 'hprof') {
    if (store.at('kind', object) === CLASS_KIND) return true;
    return /(?:^|[.$])\w*ClassLoader(?:$|\$)|^java\.lang\.(?:Class|Module|ModuleLayer)$/.test(name);
  }
  // The global object keeps what programs hang on it, each of which stands for itself.
  if (/^(?:global|Window|Object \/ global)\b/.test(nameOfObject(store, object))) return true;
  return /^\((?:synthetic|system|array|hidden|code|object shape|internal\w*)\)$|^system \/ (?:NativeContext|Context)$/.test(
    name
  );
}
const CLASS_KIND = 3;

function describe(store: HeapStore, top: number): BigHolder {
  const retained = store.column('retained');
  const { path, chain } = pathDown(store, top);
  const { at, name, via } = nameIn(store, path);
  const object = path[at];
  return {
    name,
    object,
    className: nameOfObject(store, object),
    via,
    retainedBytes: retained[object],
    share: retained[object] / store.meta.liveBytes,
    path: path.slice(at),
    chain
  };
}

function pathDown(store: HeapStore, top: number): { path: number[]; chain: Chain | null } {
  const retained = store.column('retained');
  const classOf = store.column('classOf');
  const heaviest = (object: number): number | undefined =>
    greatest(keptBy(store, object), (one) => retained[one], 0, 1)[0];
  const path = [top];
  let chain: Chain | null = null;
  for (let at = top; path.length < MAX_PATH;) {
    const next = heaviest(at);
    if (next === undefined || retained[next] < NEARLY_ALL * retained[at]) break;
    if (classOf[next] === classOf[at]) {
      // The same class again: as far as that goes on.
      let length = 1;
      for (
        let one: number | undefined = next;
        one !== undefined && classOf[one] === classOf[at];
        one = heaviest(one)
      )
        length++;
      if (length >= CHAIN_MIN_LENGTH) {
        chain = { className: nameOfObject(store, at), count: length, via: nameOfReference(store, at, next) };
        break;
      }
    }
    path.push((at = next));
  }
  return { path, chain };
}

/** What a path down is called: by the last of the program's own objects on it that leads on, else by what leads to its beginning. */
function nameIn(store: HeapStore, path: readonly number[]): { at: number; name: string; via: string } {
  const named = (from: number, to: number): { name: string; via: string } => {
    const owner = ownerName(store, from);
    const field = nameOfReference(store, from, to);
    return { name: `${owner}.${field.replace(/^static /, '')}`, via: `${owner}.${field}` };
  };
  for (let i = path.length - 2; i >= 0; i--)
    if (isOwn(store, path[i])) return { at: i + 1, ...named(path[i], path[i + 1]) };
  const [top] = path;
  // The first links of a chain may be held by something else as well: it begins before them.
  const classOf = store.column('classOf');
  let first = top;
  let keeper = keeperOf(store, top);
  for (let links = 0; keeper >= 0 && classOf[keeper] === classOf[top] && links < MOST_LINKS_BEFORE; links++)
    [first, keeper] = [keeper, keeperOf(store, keeper)];
  if (keeper >= 0) return { at: 0, ...named(keeper, first) };
  const root = rootOf(store, top);
  const className = shortClassName(nameOfObject(store, top));
  return { at: 0, name: className, via: root ? `${className}, ${root}` : className };
}

/** The class of an owner; a plain object of JavaScript goes by the property that holds it. */
function ownerName(store: HeapStore, object: number): string {
  const name = shortClassName(nameOfObject(store, object)).replace(/^.*\$(?=\D)/, '');
  if (name !== 'Object' || store.meta.format === 'hprof') return name;
  const keeper = keeperOf(store, object);
  return keeper < 0 ? name : nameOfReference(store, keeper, object);
}

const FIELD = /^(?:static )?[A-Za-z_$][\w$]*$/;
const MOST_REFERRERS = 200;
const MOST_LINKS_BEFORE = 100;

/** Who refers to an object by a field: the one on the shortest path to it where that does, else any; −1 where none does. */
function keeperOf(store: HeapStore, object: number): number {
  const byField = (one: number): boolean => one >= 0 && FIELD.test(nameOfReference(store, one, object));
  const before = store.at('before', object);
  if (byField(before)) return before;
  const start = store.at('referrerStart', object);
  const end = Math.min(store.at('referrerStart', object + 1), start + MOST_REFERRERS);
  const referrers = Array.from(store.range('referrers', start, end));
  return referrers.find((one) => !isInternal(store, one) && byField(one)) ?? -1;
}

/** Tables and shapes of the runtime, whose references have names of their own. */
const isInternal = (store: HeapStore, object: number): boolean =>
  /^\(|^system \//.test(store.meta.classes[store.at('classOf', object)].name);
