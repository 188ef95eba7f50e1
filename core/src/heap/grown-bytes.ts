import type { HeapStore } from './heap-store';
import type { IdMap } from './id-map';

/** What became of the objects of an earlier dump, by their ids. */
export interface GrownBytes {
  /**
   * Later object → bytes that came into being within what it keeps, less those that are gone from what it kept: of the super-root all that is
   * alive more than before. The growth of an object is its own and that of its children.
   */
  grown: Float64Array;
  /** Earlier object that is gone → its bytes, and those of what is gone within what it kept; 0 for those that are still there. */
  gone: Float64Array;
  /** The same object in the earlier dump, alive there; −1 for none. */
  earlier: (after: number) => number;
  isGone: (before: number) => boolean;
}

/** Two dumps of one process whose objects keep their object ids, the earlier first. Both trees are walked once. */
export function grownBytes(
  before: HeapStore,
  after: HeapStore,
  ids: { before: IdMap; after: IdMap }
): GrownBytes {
  const earlier = counterpart(after, before, ids.before);
  const later = counterpart(before, after, ids.after);
  const [was, is] = [before.column('shallow'), after.column('shallow')];
  const grown = new Float64Array(after.meta.count + 1);
  fromLeaves(after, (object, keeper) => {
    const known = earlier(object);
    grown[object] += is[object] - (known < 0 ? 0 : was[known]);
    grown[keeper] += grown[object];
  });
  const gone = new Float64Array(before.meta.count + 1);
  // Bytes gone from what an object kept that is still there, which may be kept by another now.
  const lost = new Float64Array(after.meta.count + 1);
  fromLeaves(before, (object, keeper) => {
    if (later(object) >= 0) return;
    gone[object] += was[object];
    const survivor = keeper === before.meta.count ? after.meta.count : later(keeper);
    if (survivor < 0) gone[keeper] += gone[object];
    else lost[survivor] += gone[object];
  });
  fromLeaves(after, (object, keeper) => {
    grown[object] -= lost[object];
    lost[keeper] += lost[object];
  });
  grown[after.meta.count] -= lost[after.meta.count];
  return { grown, gone, earlier, isGone: (object) => later(object) < 0 };
}

/** The same object in another dump, where it is alive; −1 where it is not. */
function counterpart(store: HeapStore, other: HeapStore, map: IdMap): (object: number) => number {
  const [ids, idom] = [store.column('ids'), other.column('idom')];
  return (object) => {
    const found = object < ids.length ? map.indexOf(ids[object]) : -1;
    return found >= 0 && idom[found] >= 0 ? found : -1;
  };
}

/** Every object that is alive with the one that keeps it, after all that it keeps itself. */
function fromLeaves(store: HeapStore, visit: (object: number, keeper: number) => void): void {
  const { count } = store.meta;
  const [start, children, idom] = [
    store.column('childStart'),
    store.column('children'),
    store.column('idom')
  ];
  const order = new Uint32Array(children.length);
  let end = 0;
  for (let i = start[count]; i < start[count + 1]; i++) order[end++] = children[i];
  for (let at = 0; at < end; at++)
    for (let i = start[order[at]]; i < start[order[at] + 1]; i++) order[end++] = children[i];
  for (let at = end - 1; at >= 0; at--) visit(order[at], idom[order[at]]);
}
