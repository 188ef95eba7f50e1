/** Linked lists of the children of each node, given its parent (−1 for a root); parents may stand anywhere. −1 ends a list. */
export function childLinks(parentOf: Int32Array): { firstChild: Int32Array; nextSibling: Int32Array } {
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
 * Walks a stack tree whose node 0 is the root from the top down, with one counter a function and no recursion.
 * @param visit called at each node with how often its function runs in the stack that ends there, itself included.
 */
function walkStacks(
  nodeFrame: Int32Array,
  nodeParent: Int32Array,
  frames: number,
  visit: (node: number, running: number) => void
): void {
  const { firstChild, nextSibling } = childLinks(nodeParent);
  const running = new Int32Array(frames);
  let node = nodeFrame.length > 0 ? 0 : -1;
  while (node >= 0) {
    visit(node, ++running[nodeFrame[node]]);
    if (firstChild[node] >= 0) {
      node = firstChild[node];
      continue;
    }
    while (node >= 0) {
      running[nodeFrame[node]]--;
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
  walkStacks(nodeFrame, nodeParent, frames, (node, running) => {
    if (running === 1) outermost[node] = 1;
  });
  return outermost;
}

/** How deep each function stands in itself at most: 1 for no recursion. */
export function deepestRecursion(nodeFrame: Int32Array, nodeParent: Int32Array, frames: number): Int32Array {
  const deepest = new Int32Array(frames);
  walkStacks(nodeFrame, nodeParent, frames, (node, running) => {
    const frame = nodeFrame[node];
    deepest[frame] = Math.max(deepest[frame], running);
  });
  return deepest;
}
