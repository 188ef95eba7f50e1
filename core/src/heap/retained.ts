import type { Dominators } from './dominators';

/** Retained sizes, bytes: what would be freed with an object, its own size included. At `count` stands all that is alive. */
export function retainedSizes(
  { count, shallow }: { count: number; shallow: Uint32Array },
  { idom, order }: Dominators
): Float64Array {
  const retained = new Float64Array(count + 1);
  // Children come after their parents: what stands at an object by then is what its children retain.
  for (let i = order.length - 1; i >= 0; i--) {
    const object = order[i];
    const own = retained[object] + shallow[object];
    retained[object] = own;
    retained[idom[object]] += own;
  }
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
 * counted twice: an object counts for a group where no dominator above it is of the group. One walk for classes and for the packages
 * they are of.
 * @param classOf object → class.
 * @param packageOf class → package.
 */
export function retainedByGroup(
  count: number,
  { childStart, children }: DominatorTree,
  retained: Float64Array,
  classOf: Uint32Array,
  packageOf: Uint32Array,
  packages: number
): { byClass: Float64Array; byPackage: Float64Array } {
  const byClass = new Float64Array(packageOf.length);
  const byPackage = new Float64Array(packages);
  const openClass = new Uint32Array(packageOf.length);
  const openPackage = new Uint32Array(packages);
  const cursor = childStart.slice(0, count + 1);
  // The way down, the super-root first; without recursion.
  const path = new Uint32Array(children.length + 1);
  let depth = 0;
  path[0] = count;
  while (depth >= 0) {
    const at = path[depth];
    const next = cursor[at];
    if (next < childStart[at + 1]) {
      cursor[at] = next + 1;
      const child = children[next];
      const ofClass = classOf[child];
      const ofPackage = packageOf[ofClass];
      if (openClass[ofClass] === 0) byClass[ofClass] += retained[child];
      if (openPackage[ofPackage] === 0) byPackage[ofPackage] += retained[child];
      // Most objects keep no other: nobody has to come back from them.
      if (cursor[child] === childStart[child + 1]) continue;
      openClass[ofClass]++;
      openPackage[ofPackage]++;
      path[++depth] = child;
    } else {
      if (depth > 0) {
        openClass[classOf[at]]--;
        openPackage[packageOf[classOf[at]]]--;
      }
      depth--;
    }
  }
  return { byClass, byPackage };
}
