import { parentPort } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import type { HeapFinding } from '@tromix/core/findings/heap-finding';
import { findInHeap } from '@tromix/core/findings/heap-findings';
import {
  addedObjects,
  compareHeaps,
  objectIdsPersist,
  type HeapDifference
} from '@tromix/core/heap/heap-diff';
import type { ColumnName, HeapMeta, HeapStore } from '@tromix/core/heap/heap-store';
import {
  holderMap,
  keptBy,
  keptGroups,
  nameOfObject,
  stepsOf,
  type HolderBox,
  type KeptGroup
} from '@tromix/core/heap/holders';
import { objectFacts, rootOf, textOfObject, type ObjectFacts } from '@tromix/core/heap/object-facts';
import { textsHolding } from '@tromix/core/heap/string-search';
import { greatest } from '@tromix/core/heap/top';
import { rootsHolding, pathTo } from '@tromix/core/heap/root-path';
import { openIndex } from './index-files';

export interface HeapPlace {
  folder: string;
  dump: string;
}

/** One object in a list. */
export interface ListedObject {
  object: number;
  className: string;
  text: string | null;
  shallow: number;
  retained: number;
  /** For a root: of which kind. */
  root: string;
}
export interface ObjectList {
  total: number;
  rows: ListedObject[];
}

export interface HeapOverview {
  meta: Omit<HeapMeta, 'layout' | 'classes' | 'packages' | 'threads' | 'duplicates'>;
  boxes: HolderBox[];
  findings: HeapFinding[];
  difference: HeapDifference | null;
}

export type Step = ReturnType<typeof stepsOf>[number];

/** Indexes kept open: the two that are compared, and one more. */
const MOST_OPEN = 3;
/** Columns that clicks need and the overview does not. */
const LATER: readonly ColumnName[] = [
  'edgeStart',
  'edgeTo',
  'edgeType',
  'edgeName',
  'nodeName',
  'textPosition',
  'position',
  'before',
  'referrerStart',
  'referrers',
  'children',
  'childStart'
];
const LOAD_PAUSE_MS = 20;
/** Objects named in one list at most, beyond which a narrower question is wanted. */
const MAX_TEXT = 120;

/** Answers questions about indexed dumps, in a thread of its own. */
class HeapReader {
  readonly #open = new Map<string, HeapStore & { close: () => void }>();

  #store({ folder, dump }: HeapPlace): HeapStore {
    let known = this.#open.get(folder);
    if (known) this.#open.delete(folder);
    else known = openIndex(folder, dump);
    this.#open.set(folder, known);
    if (this.#open.size > MOST_OPEN) {
      const [oldest, store] = [...this.#open][0];
      this.#open.delete(oldest);
      store.close();
    }
    return known;
  }

  overview(place: HeapPlace, before: HeapPlace | null): Promise<HeapOverview> {
    const store = this.#store(place);
    this.#loadRest(store);
    const difference = before ? compareHeaps(this.#store(before), store) : null;
    const { layout: _, classes: __, packages: ___, threads: ____, duplicates: _____, ...meta } = store.meta;
    return Promise.resolve({
      meta,
      boxes: holderMap(store),
      findings: findInHeap({ store, difference }),
      difference
    });
  }

  /** Loads what the next questions will ask for, a column at a time, so that questions come in between. */
  #loadRest(store: HeapStore, columns = [...LATER]): void {
    const next = columns.shift();
    if (next === undefined) return;
    setTimeout(() => {
      // Meanwhile the index may have been closed for another.
      if (![...this.#open.values()].includes(store as HeapStore & { close: () => void })) return;
      store.column(next);
      this.#loadRest(store, columns);
    }, LOAD_PAUSE_MS);
  }

  classes(place: HeapPlace): Promise<Pick<HeapMeta, 'classes' | 'packages'>> {
    const { classes, packages } = this.#store(place).meta;
    return Promise.resolve({ classes, packages });
  }

  object(place: HeapPlace, object: number, from: number): Promise<ObjectFacts & { slotClasses: string[] }> {
    const store = this.#store(place);
    const facts = objectFacts(store, object, from);
    const slotClasses = facts.slots.map(({ to }) => (to < 0 ? '' : nameOfObject(store, to)));
    return Promise.resolve({ ...facts, className: nameOfObject(store, object), slotClasses });
  }

  path(
    place: HeapPlace,
    object: number
  ): Promise<{ steps: Step[]; leftOut: number; roots: { step: Step; steps: number }[] }> {
    const store = this.#store(place);
    const { path, leftOut } = pathTo(store, object);
    const roots = rootsHolding(store, object, 20).map(({ root, steps }) => ({
      step: { ...stepsOf(store, [root])[0], root: rootOf(store, root) },
      steps
    }));
    return Promise.resolve({ steps: stepsOf(store, path), leftOut, roots });
  }

  kept(
    place: HeapPlace,
    object: number,
    from: number,
    most: number
  ): Promise<ObjectList & { groups: KeptGroup[] }> {
    const store = this.#store(place);
    const of = object < 0 ? store.meta.count : object;
    const groups = keptGroups(store, of).slice(0, 60);
    return Promise.resolve({ ...this.#list(store, keptBy(store, of), from, most), groups });
  }

  referrers(place: HeapPlace, object: number, from: number, most: number): Promise<ObjectList> {
    const store = this.#store(place);
    const start = store.column('referrerStart');
    return Promise.resolve(
      this.#list(store, store.column('referrers').subarray(start[object], start[object + 1]), from, most)
    );
  }

  /** Objects of classes whose name holds a text, of a least retained size, whose own text holds another. */
  search(
    place: HeapPlace,
    name: string,
    value: string,
    least: number,
    from: number,
    most: number
  ): Promise<ObjectList> {
    const store = this.#store(place);
    const wanted = name.toLowerCase();
    const exact = store.meta.classes.findIndex((one) => one.name === name);
    const matches = Uint8Array.from(store.meta.classes, (one, i) =>
      Number(exact >= 0 ? i === exact : one.name.toLowerCase().includes(wanted))
    );
    const [classOf, retained] = [store.column('classOf'), store.column('retained')];
    if (value !== '') {
      const strings = textsHolding(store, value, MOST_FOUND);
      const found = strings.filter((object) => retained[object] >= least && matches[classOf[object]] === 1);
      return Promise.resolve(this.#list(store, found, from, most));
    }
    // Gone through for every object of the dump: into room for all, which is touched as far as it is filled.
    const found = new Uint32Array(classOf.length);
    let count = 0;
    for (let i = 0; i < classOf.length; i++)
      if (matches[classOf[i]] === 1 && retained[i] >= least) found[count++] = i;
    return Promise.resolve(this.#list(store, found.subarray(0, count), from, most));
  }

  /** Objects of a class that an earlier dump did not have; null where object ids do not tell. */
  added(
    place: HeapPlace,
    before: HeapPlace,
    name: string,
    from: number,
    most: number
  ): Promise<ObjectList | null> {
    const [later, earlier] = [this.#store(place), this.#store(before)];
    if (!objectIdsPersist(earlier, later)) return Promise.resolve(null);
    return Promise.resolve(this.#list(later, addedObjects(earlier, later, name), from, most));
  }

  roots(place: HeapPlace, kind: string, from: number, most: number): Promise<ObjectList> {
    const store = this.#store(place);
    const rootKind = store.column('rootKind');
    const wanted = store.meta.rootKinds.findIndex((one) => one.kind === kind);
    const found = store.column('roots').filter((_, i) => wanted < 0 || rootKind[i] === wanted);
    return Promise.resolve(this.#list(store, found, from, most));
  }

  strings(
    place: HeapPlace
  ): Promise<{ value: string; count: number; wastedBytes: number; sample: number }[]> {
    const store = this.#store(place);
    return Promise.resolve(
      store.meta.duplicates.map(({ sample, count, wastedBytes }) => ({
        sample,
        count,
        wastedBytes,
        value: textOfObject(store, sample, MAX_TEXT) ?? ''
      }))
    );
  }

  #list(store: HeapStore, objects: ArrayLike<number>, from: number, most: number): ObjectList {
    const [shallow, retained] = [store.column('shallow'), store.column('retained')];
    return {
      total: objects.length,
      rows: greatest(objects, (object) => retained[object], from, most).map((object) => ({
        object,
        className: nameOfObject(store, object),
        text: textOfObject(store, object, MAX_TEXT),
        shallow: shallow[object],
        retained: retained[object],
        root: rootOf(store, object)
      }))
    };
  }
}
export type { HeapReader };

/** Strings found before a search ends. */
const MOST_FOUND = 2000;

expose(new HeapReader(), nodeEndpoint(parentPort!));
