import type { StackTree } from './model';
import type { Slice } from './slice';
import { childLinks } from './stack-tree';

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

/** Lays the weighed tree out from the root: each node as wide as its total, its children from its left edge. */
export function flameLayout({ nodeParent }: StackTree, weights: Slice): FlameLayout {
  const { firstChild, nextSibling } = childLinks(nodeParent);
  const alive = weights.total.reduce((count, total) => count + (total > 0 ? 1 : 0), 0);
  const layout = emptyLayout(alive);
  if (alive === 0) return layout;
  const whole = weights.sum;
  let size = 0;
  const place = (node: number, depth: number, x: number, parent: number): void => {
    layout.node[size] = node;
    layout.depth[size] = depth;
    layout.x[size] = x;
    layout.width[size] = weights.total[node] / whole;
    layout.parent[size] = parent;
    layout.rows = Math.max(layout.rows, depth + 1);
    size++;
  };
  place(0, 0, 0, -1);
  const siblings: number[] = [];
  for (let box = 0; box < size; box++) {
    siblings.length = 0;
    for (let child = firstChild[layout.node[box]]; child >= 0; child = nextSibling[child]) {
      if (weights.total[child] > 0) siblings.push(child);
    }
    if (siblings.length > 1) siblings.sort((a, b) => weights.total[b] - weights.total[a] || a - b);
    let x = layout.x[box];
    for (const child of siblings) {
      place(child, layout.depth[box] + 1, x, box);
      x += weights.total[child] / whole;
    }
  }
  return layout;
}
