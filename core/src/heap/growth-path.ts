import { grownBytes } from './grown-bytes';
import type { HeapStore } from './heap-store';
import { groupsOf, keptBy, nameOfObject } from './holders';
import type { IdMap } from './id-map';

/** One step down the dominator trees, folded by class. */
export interface GrowthStep {
  className: string;
  before: { count: number; retainedBytes: number };
  after: { count: number; retainedBytes: number };
  /** The one that retains most in the later dump; −1 where none is left. */
  sample: number;
}

/** Objects of one class, numbers of either dump. */
interface Members {
  before: number[];
  after: number[];
}

/** What objects grew by, and how many of them there were. */
interface Account {
  growth: (members: Members) => number;
  countBefore: (members: Members) => number;
  /** Of the earlier objects those that a step has besides what the later ones tell. */
  counts: (before: number) => boolean;
  /** Where a later object stood in the earlier dump; −1 where it did not, or where nobody knows. */
  earlier: (after: number) => number;
}

/** The path goes on while a class explains this part of its parent's growth. */
const PATH_SHARE = 0.5;
const MAX_STEPS = 40;

/**
 * Where the heap grew: from the roots always to the class that grew most.
 * @param ids of the objects of both dumps; null where they do not persist, and only the class and its place in the tree can be compared.
 */
export function growthPath(
  before: HeapStore,
  after: HeapStore,
  ids: { before: IdMap; after: IdMap } | null
): GrowthStep[] {
  const account = ids ? byObjectId(before, after, ids) : byPlace(before, after);
  const retained = after.column('retained');
  const path: GrowthStep[] = [];
  let parents: Members = { before: [before.meta.count], after: [after.meta.count] };
  let growth = after.meta.liveBytes - before.meta.liveBytes;
  while (growth > 0 && path.length < MAX_STEPS) {
    const step = mostGrown(before, after, parents, account);
    if (!step || step.growth < PATH_SHARE * growth) break;
    const { name, members } = step;
    const retainedBytes = sumOf(retained, members.after);
    path.push({
      className: name,
      before: { count: account.countBefore(members), retainedBytes: retainedBytes - step.growth },
      after: { count: members.after.length, retainedBytes },
      sample: groupsOf(after, members.after)[0]?.sample ?? -1
    });
    // What the later ones kept in the earlier dump belongs to them, whoever kept them then.
    const known = members.after.map(account.earlier).filter((object) => object >= 0);
    parents = { before: [...members.before, ...known], after: members.after };
    growth = step.growth;
  }
  return path;
}

function mostGrown(
  before: HeapStore,
  after: HeapStore,
  parents: Members,
  account: Account
): { name: string; members: Members; growth: number } | null {
  const [was, is] = [byName(before, parents.before), byName(after, parents.after)];
  let best: { name: string; members: Members; growth: number } | null = null;
  for (const [name, objects] of is) {
    const members = { before: (was.get(name) ?? []).filter(account.counts), after: objects };
    const growth = account.growth(members);
    if (growth > (best?.growth ?? 0)) best = { name, members, growth };
  }
  return best;
}

/** What some objects keep directly, by class. */
function byName(store: HeapStore, parents: readonly number[]): Map<string, number[]> {
  const groups = new Map<string, number[]>();
  for (const parent of parents) {
    const children = keptBy(store, parent);
    for (let i = 0; i < children.length; i++) {
      const name = nameOfObject(store, children[i]);
      const group = groups.get(name);
      if (group) group.push(children[i]);
      else groups.set(name, [children[i]]);
    }
  }
  return groups;
}

const sumOf = (values: ArrayLike<number>, objects: readonly number[]): number =>
  objects.reduce((sum, object) => sum + values[object], 0);

/** By what the objects of a class retain at the same place of both trees. */
function byPlace(before: HeapStore, after: HeapStore): Account {
  return {
    growth: (members) =>
      sumOf(after.column('retained'), members.after) - sumOf(before.column('retained'), members.before),
    countBefore: (members) => members.before.length,
    counts: () => true,
    earlier: () => -1
  };
}

/** By what came into being and what is gone: what only moved within the heap is no growth. */
function byObjectId(before: HeapStore, after: HeapStore, ids: { before: IdMap; after: IdMap }): Account {
  const { grown, gone, earlier, isGone } = grownBytes(before, after, ids);
  return {
    growth: (members) => sumOf(grown, members.after) - sumOf(gone, members.before),
    countBefore: (members) =>
      members.before.length + members.after.filter((object) => earlier(object) >= 0).length,
    counts: isGone,
    earlier
  };
}
