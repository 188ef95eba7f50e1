import type { Dominators } from './dominators';

/** Retained sizes, bytes: what would be freed with an object, its own size included. At `count` stands all that is alive. */
export function retainedSizes(
  { count, shallow }: { count: number; shallow: Uint32Array },
  { idom, order }: Dominators
): Float64Array {
  const retained = new Float64Array(count + 1);
  for (let i = 0; i < order.length; i++) retained[order[i]] = shallow[order[i]];
  for (let i = order.length - 1; i >= 0; i--) retained[idom[order[i]]] += retained[order[i]];
  return retained;
}

/** Children of every object in the dominator tree; those of the super-root stand at `count`. */
export interface DominatorTree {
  childStart: Uint32Array;
  children: Uint32Array;
}

export function dominatorTree(count: number, { idom, order }: Dominators): DominatorTree {
  const childStart = new Uint32Array(count + 2);
  for (let i = 0; i < order.length; i++) childStart[idom[order[i]] + 1]++;
  for (let i = 1; i < childStart.length; i++) childStart[i] += childStart[i - 1];
  const next = childStart.slice();
  const children = new Uint32Array(order.length);
  for (let i = 0; i < order.length; i++) children[next[idom[order[i]]]++] = order[i];
  return { childStart, children };
}

/**
 * Retained sizes of groups (classes, packages): of the union of what their members retain, so that a member that keeps another is not
 * counted twice: an object counts for a group where no dominator above it is of the group.
 */
export function retainedByGroup(
  count: number,
  { childStart, children }: DominatorTree,
  retained: Float64Array,
  groupOf: Uint32Array,
  groups: number
): Float64Array {
  const sums = new Float64Array(groups);
  const open = new Uint32Array(groups);
  const cursor = childStart.slice(0, count + 1);
  // The way down, the super-root first; without recursion.
  const path = new Uint32Array(children.length + 1);
  let depth = 0;
  path[0] = count;
  while (depth >= 0) {
    const at = path[depth];
    if (cursor[at] < childStart[at + 1]) {
      const child = children[cursor[at]++];
      if (open[groupOf[child]]++ === 0) sums[groupOf[child]] += retained[child];
      path[++depth] = child;
    } else {
      if (depth > 0) open[groupOf[at]]--;
      depth--;
    }
  }
  return sums;
}
