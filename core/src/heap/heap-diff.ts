import { changeOf, eachSide, type Sides } from '../sides';
import { growthPath, type GrowthStep } from './growth-path';
import type { GroupFigures, HeapStore } from './heap-store';
import { idMap, type IdMap } from './id-map';

export interface ClassGrowth extends Sides<GroupFigures> {
  name: string;
  own: boolean;
}

export interface HeapDifference {
  /** How objects were matched: by object ids that persist, or only by class and by their place in the tree. */
  matchedBy: 'object id' | 'class';
  /** Of the later dump's objects, the part whose object id the earlier had. */
  known: number;
  classes: ClassGrowth[];
  /** Bytes held from roots. */
  liveBytes: Sides<number>;
  /** Where it grew most: always the class that grew most, down the tree. */
  growthPath: GrowthStep[];
}

/** Two dumps of one process, the earlier first. */
export function compareHeaps(before: HeapStore, after: HeapStore): HeapDifference {
  const names = new Map<string, ClassGrowth>();
  const none = { count: 0, shallowBytes: 0, retainedBytes: 0 };
  for (const [side, store] of [
    ['before', before],
    ['after', after]
  ] as const) {
    for (const { name, own, count, shallowBytes, retainedBytes } of store.meta.classes) {
      let growth = names.get(name);
      if (!growth) names.set(name, (growth = { name, own, before: { ...none }, after: { ...none } }));
      const figures = growth[side];
      figures.count += count;
      figures.shallowBytes += shallowBytes;
      figures.retainedBytes += retainedBytes;
    }
  }
  const { known, persist } = matched(before, after);
  return {
    matchedBy: persist ? 'object id' : 'class',
    known,
    classes: [...names.values()]
      .filter(
        (one) => one.before.count !== one.after.count || one.before.shallowBytes !== one.after.shallowBytes
      )
      .sort((a, b) => grown(b) - grown(a)),
    liveBytes: eachSide({ before, after }, ({ meta }) => meta.liveBytes),
    growthPath: growthPath(
      before,
      after,
      persist ? { before: objectIds(before), after: objectIds(after) } : null
    )
  };
}

const grown = (growth: ClassGrowth): number => changeOf(growth, ({ shallowBytes }) => shallowBytes);

/** Made once for each dump that others are held against: it takes a while, and several questions ask for it. */
const maps = new WeakMap<HeapStore, IdMap>();
function objectIds(store: HeapStore): IdMap {
  let map = maps.get(store);
  if (!map) maps.set(store, (map = idMap(store.column('ids'))));
  return map;
}

/** Less of the later objects that the earlier dump knows says that it is of another process. */
const KNOWN_SHARE = 0.2;
/** An object keeps its class. Two processes count up from the same number: theirs agree by chance, and most classes do not. */
const OTHER_CLASS_SHARE = 0.02;

/**
 * V8 gives every object a number of its own for as long as it lives; addresses of a JVM change with every collection.
 * @returns the part of the later objects whose object id the earlier dump has, and whether they are the same objects.
 */
function matched(before: HeapStore, after: HeapStore): { known: number; persist: boolean } {
  const [was, is] = [before.meta, after.meta];
  if (was.format !== 'v8-heap-snapshot' || is.format !== was.format) return { known: 0, persist: false };
  const earlier = objectIds(before);
  const [ids, classOf, classBefore] = [
    after.column('ids'),
    after.column('classOf'),
    before.column('classOf')
  ];
  let [known, others] = [0, 0];
  for (let i = 0; i < ids.length; i++) {
    const object = earlier.indexOf(ids[i]);
    if (object < 0) continue;
    known++;
    if (was.classes[classBefore[object]].name !== is.classes[classOf[i]].name) others++;
  }
  const share = ids.length > 0 ? known / ids.length : 0;
  return { known: share, persist: share >= KNOWN_SHARE && others <= OTHER_CLASS_SHARE * known };
}

/** True where objects of both dumps are recognised by their ids. */
export const objectIdsPersist = (before: HeapStore, after: HeapStore): boolean =>
  matched(before, after).persist;

/** Objects of a class in the later dump whose object ids the earlier did not have. Only where object ids persist. */
export function addedObjects(before: HeapStore, after: HeapStore, name: string): number[] {
  const earlier = objectIds(before);
  const ids = after.column('ids');
  const classOf = after.column('classOf');
  const wanted = new Set(after.meta.classes.flatMap((one, i) => (one.name === name ? [i] : [])));
  const added: number[] = [];
  for (let i = 0; i < ids.length; i++)
    if (wanted.has(classOf[i]) && earlier.indexOf(ids[i]) < 0) added.push(i);
  return added;
}
