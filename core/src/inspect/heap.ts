import type { HeapFinding } from '../findings/heap-finding';
import { findInHeap } from '../findings/heap-findings';
import type { HeapStore } from '../heap/heap-store';
import { bigHolders } from '../heap/big-holders';
import { nameOfObject } from '../heap/holders';
import { className, nameOfReference, textOfObject } from '../heap/object-facts';
import { greatest } from '../heap/top';
import { wayTo } from '../heap/ways';

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
  largest: {
    id: number;
    className: string;
    shallowBytes: number;
    retainedBytes: number;
    path: { className: string; id: number; via: string }[];
  }[];
  duplicateStrings: {
    groups: number;
    wastedBytes: number;
    top: { value: string; count: number; wastedBytes: number }[];
  };
  findings: HeapFinding[];
}

const MAX_TEXT = 200;

/**
 * Everything `tromix inspect` says about a heap dump.
 * @param top most classes, objects and texts listed; 0 for all classes.
 */
export function inspectHeap(store: HeapStore, top: number): InspectedHeap {
  const { meta } = store;
  const [ids, shallow, retained] = [store.column('ids'), store.column('shallow'), store.column('retained')];
  const most = top === 0 ? undefined : top;
  const children = store.column('children');
  const step = stepReader(store);
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
    largest: greatest(children, (object) => retained[object], 0, most ?? DEFAULT_LARGEST).map((object) => ({
      id: ids[object],
      className: className(store, object),
      shallowBytes: shallow[object],
      retainedBytes: retained[object],
      path: wayTo(store, object).way.map(step)
    })),
    duplicateStrings: {
      groups: meta.duplicateGroups,
      wastedBytes: meta.duplicateBytes,
      top: meta.duplicates.slice(0, most).map(({ sample, value, count, wastedBytes }) => ({
        value: value ?? textOfObject(store, sample, MAX_TEXT) ?? '',
        count,
        wastedBytes
      }))
    },
    findings: findInHeap({ store, difference: null })
  };
}

/** What stands on the way to an object. Ways of thousands of objects share most of their steps: each is read once. */
function stepReader(store: HeapStore): (object: number) => { className: string; id: number; via: string } {
  const [ids, before] = [store.column('ids'), store.column('before')];
  const known = new Map<number, { className: string; id: number; via: string }>();
  return (object) => {
    let step = known.get(object);
    if (!step) {
      const via = before[object] >= 0 ? nameOfReference(store, before[object], object) : '';
      known.set(object, (step = { className: nameOfObject(store, object), id: ids[object], via }));
    }
    return step;
  };
}

const DEFAULT_LARGEST = 20;
