/** Linked lists of the children of each node. −1 ends a list. */
export interface ChildLinks {
  firstChild: Int32Array;
  nextSibling: Int32Array;
}

/** A tree stays while its weights change with each move of a selection: its links are worked out once. */
const known = new WeakMap<Int32Array, ChildLinks>();

/** The links of a tree that does not change any more. */
export function linksOf(nodeParent: Int32Array): ChildLinks {
  let links = known.get(nodeParent);
  if (!links) known.set(nodeParent, (links = childLinks(nodeParent)));
  return links;
}

/** Links, given the parent of each node (−1 for a root); parents may stand anywhere. */
export function childLinks(parentOf: Int32Array): ChildLinks {
  const firstChild = new Int32Array(parentOf.length).fill(-1);
  const nextSibling = new Int32Array(parentOf.length).fill(-1);
  for (let at = parentOf.length - 1; at >= 0; at--) {
    if (parentOf[at] < 0) continue;
    nextSibling[at] = firstChild[parentOf[at]];
    firstChild[parentOf[at]] = at;
  }
  return { firstChild, nextSibling };
}

/**
 * Walks a stack tree whose node 0 is the root, without recursion however deep it is: each node is entered before its
 * children and left after them.
 */
export function walkTree(
  nodeParent: Int32Array,
  enter: (node: number, parent: number) => void,
  leave: (node: number) => void
): void {
  const { firstChild, nextSibling } = childLinks(nodeParent);
  let node = nodeParent.length > 0 ? 0 : -1;
  while (node >= 0) {
    enter(node, nodeParent[node]);
    if (firstChild[node] >= 0) {
      node = firstChild[node];
      continue;
    }
    while (node >= 0) {
      leave(node);
      if (nextSibling[node] >= 0) {
        node = nextSibling[node];
        break;
      }
      node = nodeParent[node];
    }
  }
}

/** 1 for nodes above which the same function does not run. */
export function markOutermost(nodeFrame: Int32Array, nodeParent: Int32Array, frames: number): Uint8Array {
  const outermost = new Uint8Array(nodeFrame.length);
  const running = new Int32Array(frames);
  walkTree(
    nodeParent,
    (node) => {
      if (++running[nodeFrame[node]] === 1) outermost[node] = 1;
    },
    (node) => running[nodeFrame[node]]--
  );
  return outermost;
}

/** How deep each function stands in itself at most: 1 for no recursion. @param counts false for nodes to be passed over. */
export function deepestRecursion(
  nodeFrame: Int32Array,
  nodeParent: Int32Array,
  frames: number,
  counts: (node: number) => boolean = () => true
): Int32Array {
  const deepest = new Int32Array(frames);
  const running = new Int32Array(frames);
  walkTree(
    nodeParent,
    (node) => {
      const frame = nodeFrame[node];
      running[frame]++;
      if (counts(node)) deepest[frame] = Math.max(deepest[frame], running[frame]);
    },
    (node) => running[nodeFrame[node]]--
  );
  return deepest;
}
