import type { HeapFinding } from '../findings/heap-finding';
import { findInHeap } from '../findings/heap-findings';
import type { HeapStore } from '../heap/heap-store';
import { bigHolders } from '../heap/big-holders';
import { nameOfObject } from '../heap/holders';
import { className, nameOfReference, textOfObject } from '../heap/object-facts';
import { descending, greatest } from '../heap/top';
import { pathTo } from '../heap/root-path';

export interface LargeObject {
  id: number;
  className: string;
  shallowBytes: number;
  retainedBytes: number;
  path: WayStep[];
}
export interface RepeatedText {
  value: string;
  count: number;
  wastedBytes: number;
}
interface WayStep {
  className: string;
  id: number;
  via: string;
}

export interface InspectedHeap {
  /** What keeps at least a fifth of what is alive, most first. */
  holders: {
    name: string;
    className: string;
    via: string;
    retainedBytes: number;
    share: number;
    chain?: { className: string; count: number; via: string };
  }[];
  objects: number;
  references: number;
  roots: number;
  rootKinds: Record<string, number>;
  shallowBytes: number;
  /** As the dump records sizes; absent for V8, whose sizes are its own. */
  recordedBytes?: number;
  liveObjects: number;
  liveBytes: number;
  unreachableObjects: number;
  classes: { name: string; count: number; shallowBytes: number; retainedBytes: number }[];
  /** By what they retain, worked out one by one as they are asked for: all of them may be more than there is memory for. */
  largest: Iterable<LargeObject>;
  duplicateStrings: {
    groups: number;
    wastedBytes: number;
    top: Iterable<RepeatedText>;
  };
  findings: HeapFinding[];
}

const MAX_TEXT = 200;

/**
 * Everything `tromix inspect` says about a heap dump.
 * @param top most classes, objects and texts listed; 0 for all.
 */
export function inspectHeap(store: HeapStore, top: number): InspectedHeap {
  const { meta } = store;
  const most = top === 0 ? undefined : top;
  return {
    holders: bigHolders(store).map(({ name, className: ofClass, via, retainedBytes, share, chain }) => ({
      name,
      className: ofClass,
      via,
      retainedBytes,
      share,
      ...(chain && { chain })
    })),
    objects: meta.count,
    references: meta.references,
    roots: meta.rootRecords.reduce((sum, count) => sum + count, 0),
    rootKinds: Object.fromEntries(
      meta.rootKinds.flatMap(({ kind }, i) => (meta.rootRecords[i] > 0 ? [[kind, meta.rootRecords[i]]] : []))
    ),
    shallowBytes: meta.shallowBytes,
    ...(meta.format === 'hprof' ? { recordedBytes: meta.recordedBytes } : {}),
    liveObjects: meta.liveObjects,
    liveBytes: meta.liveBytes,
    unreachableObjects: meta.unreachableObjects,
    classes: meta.classes
      .filter(({ count }) => count > 0)
      .map(({ name, count, shallowBytes, retainedBytes }) => ({ name, count, shallowBytes, retainedBytes }))
      .sort((a, b) => b.retainedBytes - a.retainedBytes)
      .slice(0, most),
    largest: { [Symbol.iterator]: () => largeObjects(store, most) },
    duplicateStrings: {
      groups: meta.duplicateGroups,
      wastedBytes: meta.duplicateBytes,
      top: { [Symbol.iterator]: () => repeatedTexts(store, most) }
    },
    findings: findInHeap({ store, difference: null })
  };
}

function* repeatedTexts(store: HeapStore, most: number | undefined): Generator<RepeatedText> {
  for (const { sample, count, wastedBytes } of store.meta.duplicates.slice(0, most))
    yield { value: textOfObject(store, sample, MAX_TEXT) ?? '', count, wastedBytes };
}

function* largeObjects(store: HeapStore, most: number | undefined): Generator<LargeObject> {
  const step = stepReader(store);
  for (const object of byRetained(store, most))
    yield {
      id: store.at('ids', object),
      className: className(store, object),
      shallowBytes: store.at('shallow', object),
      retainedBytes: store.at('retained', object),
      path: pathTo(store, object).path.map(step)
    };
}

/** All that is alive is a child in the dominator tree. */
function byRetained(store: HeapStore, most: number | undefined): Iterable<number> {
  const [children, retained] = [store.column('children'), store.column('retained')];
  const keyOf = (object: number): number => retained[object];
  return most === undefined ? descending(children, keyOf) : greatest(children, keyOf, 0, most);
}

/** Steps that are remembered. */
const MOST_STEPS = 50_000;

/** What stands on the path to an object. Ways of thousands of objects share most of their steps: each is read once. */
function stepReader(store: HeapStore): (object: number) => WayStep {
  const known = new Map<number, WayStep>();
  return (object) => {
    let step = known.get(object);
    if (!step) {
      const before = store.at('before', object);
      const via = before >= 0 ? nameOfReference(store, before, object) : '';
      if (known.size >= MOST_STEPS) known.clear();
      known.set(
        object,
        (step = { className: nameOfObject(store, object), id: store.at('ids', object), via })
      );
    }
    return step;
  };
}
