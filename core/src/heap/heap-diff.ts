import type { HeapStore } from './heap-store';
import { idMap, type IdMap } from './id-map';
import { groupsOf, keptBy, nameOfObject } from './holders';

export interface ClassGrowth {
  name: string;
  own: boolean;
  before: { count: number; shallowBytes: number; retainedBytes: number };
  after: { count: number; shallowBytes: number; retainedBytes: number };
}

/** One step down both dominator trees, folded by class. */
export interface GrowthStep {
  className: string;
  before: { count: number; retainedBytes: number };
  after: { count: number; retainedBytes: number };
  /** The one that retains most in the later dump; −1 where none is left. */
  sample: number;
}

export interface HeapDifference {
  /** How objects were matched: by identities that persist, or only by class and by their place in the tree. */
  matchedBy: 'identity' | 'class';
  /** Of the later dump's objects, the part whose identity the earlier had. */
  known: number;
  classes: ClassGrowth[];
  liveBefore: number;
  liveAfter: number;
  /** Where it grew most: always the class that grew most, down the tree. */
  growthPath: GrowthStep[];
}

/** V8 gives every object a number of its own for as long as it lives; addresses of a Java machine change with every collection. */
const KNOWN_SHARE = 0.2;

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
  const known =
    before.meta.format === 'v8-heap-snapshot' && after.meta.format === before.meta.format
      ? knownShare(before, after)
      : 0;
  return {
    matchedBy: known >= KNOWN_SHARE ? 'identity' : 'class',
    known,
    classes: [...names.values()]
      .filter(
        (one) => one.before.count !== one.after.count || one.before.shallowBytes !== one.after.shallowBytes
      )
      .sort((a, b) => grown(b) - grown(a)),
    liveBefore: before.meta.liveBytes,
    liveAfter: after.meta.liveBytes,
    growthPath: growthPath(before, after)
  };
}

const grown = ({ before, after }: ClassGrowth): number => after.shallowBytes - before.shallowBytes;

/** Made once for each dump that others are held against: it takes a while, and several questions ask for it. */
const maps = new WeakMap<HeapStore, IdMap>();
function identities(store: HeapStore): IdMap {
  let map = maps.get(store);
  if (!map) maps.set(store, (map = idMap(store.column('ids'))));
  return map;
}

function knownShare(before: HeapStore, after: HeapStore): number {
  const earlier = identities(before);
  const ids = after.column('ids');
  let known = 0;
  for (let i = 0; i < ids.length; i++) if (earlier.indexOf(ids[i]) >= 0) known++;
  return ids.length > 0 ? known / ids.length : 0;
}

/** Objects of a class in the later dump whose identities the earlier did not have. Only where identities persist. */
export function addedObjects(before: HeapStore, after: HeapStore, name: string): number[] {
  const earlier = identities(before);
  const ids = after.column('ids');
  const classOf = after.column('classOf');
  const wanted = new Set(after.meta.classes.flatMap((one, i) => (one.name === name ? [i] : [])));
  const added: number[] = [];
  for (let i = 0; i < ids.length; i++)
    if (wanted.has(classOf[i]) && earlier.indexOf(ids[i]) < 0) added.push(i);
  return added;
}

/** The path goes on while a class explains this part of its parent's growth. */
const PATH_SHARE = 0.5;
const MAX_STEPS = 40;

function growthPath(before: HeapStore, after: HeapStore): GrowthStep[] {
  const path: GrowthStep[] = [];
  let earlier: number[] = [before.meta.count];
  let later: number[] = [after.meta.count];
  let growth = after.meta.liveBytes - before.meta.liveBytes;
  while (growth > 0 && path.length < MAX_STEPS) {
    const step = mostGrown(before, after, earlier, later);
    if (!step || step.growth < PATH_SHARE * growth) break;
    path.push(step.told);
    [earlier, later, growth] = [step.earlier, step.later, step.growth];
  }
  return path;
}

function mostGrown(
  before: HeapStore,
  after: HeapStore,
  earlier: readonly number[],
  later: readonly number[]
): { told: GrowthStep; earlier: number[]; later: number[]; growth: number } | null {
  const [was, is] = [byName(before, earlier), byName(after, later)];
  let best: { name: string; growth: number } | null = null;
  for (const [name, group] of is) {
    const growth = group.retained - (was.get(name)?.retained ?? 0);
    if (growth > (best?.growth ?? 0)) best = { name, growth };
  }
  if (!best) return null;
  const [then, now] = [was.get(best.name), is.get(best.name)!];
  return {
    told: {
      className: best.name,
      before: { count: then?.objects.length ?? 0, retainedBytes: then?.retained ?? 0 },
      after: { count: now.objects.length, retainedBytes: now.retained },
      sample: groupsOf(after, now.objects)[0]?.sample ?? -1
    },
    earlier: then?.objects ?? [],
    later: now.objects,
    growth: best.growth
  };
}

function byName(
  store: HeapStore,
  parents: readonly number[]
): Map<string, { objects: number[]; retained: number }> {
  const retained = store.column('retained');
  const groups = new Map<string, { objects: number[]; retained: number }>();
  for (const parent of parents) {
    const children = keptBy(store, parent);
    for (let i = 0; i < children.length; i++) {
      const name = nameOfObject(store, children[i]);
      let group = groups.get(name);
      if (!group) groups.set(name, (group = { objects: [], retained: 0 }));
      group.objects.push(children[i]);
      group.retained += retained[children[i]];
    }
  }
  return groups;
}
