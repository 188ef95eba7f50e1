import type { StackTree } from './model';
import type { Slice } from './slice';
import { linksOf } from './stack-tree';

/** Boxes of a flame graph, parents before children, siblings heaviest first. */
export interface FlameLayout {
  node: Int32Array;
  depth: Int32Array;
  /** Left edge and width as parts of the whole (0 to 1). */
  x: Float64Array;
  width: Float64Array;
  /** Index of the parent box, −1 for the root. */
  parent: Int32Array;
  rows: number;
}

/** Room for so many boxes, none of which is placed yet. */
export const emptyLayout = (size: number): FlameLayout => ({
  node: new Int32Array(size),
  depth: new Int32Array(size),
  x: new Float64Array(size),
  width: new Float64Array(size),
  parent: new Int32Array(size),
  rows: 0
});

/**
 * Lays the weighed tree out from the root: each node as wide as its total, its children from its left edge.
 * @param least nodes of less than this part of the whole are left out, with all below them: for a picture that is just moving, in which they are
 * narrower than anything that is drawn.
 */
export function flameLayout({ nodeParent }: StackTree, weights: Slice, least = 0): FlameLayout {
  const { firstChild, nextSibling } = linksOf(nodeParent);
  const { total, sum } = weights;
  const from = least * sum;
  let alive = 0;
  for (let node = 0; node < total.length; node++) if (total[node] > from) alive++;
  const layout = emptyLayout(alive);
  if (alive === 0) return layout;
  const { node: nodes, depth, x, width, parent } = layout;
  width[0] = total[0] / sum;
  parent[0] = -1;
  let size = 1;
  const siblings: number[] = [];
  for (let box = 0; box < size; box++) {
    // The children stand in the layout as they come, and are put in order there where there are several.
    const first = size;
    for (let child = firstChild[nodes[box]]; child >= 0; child = nextSibling[child])
      if (total[child] > from) nodes[size++] = child;
    if (size - first > 1) {
      siblings.length = 0;
      for (let i = first; i < size; i++) siblings.push(nodes[i]);
      siblings.sort((a, b) => total[b] - total[a] || a - b);
      for (let i = first; i < size; i++) nodes[i] = siblings[i - first];
    }
    let left = x[box];
    for (let i = first; i < size; i++) {
      depth[i] = depth[box] + 1;
      parent[i] = box;
      x[i] = left;
      left += width[i] = total[nodes[i]] / sum;
    }
  }
  layout.rows = depth[size - 1] + 1;
  return layout;
}
