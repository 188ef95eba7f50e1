import { hierarchy, treemap, treemapSquarify } from 'd3-hierarchy';
import type { HolderBox } from '@tromix/core/heap/holders';

export interface MapBox {
  name: string;
  bytes: number;
  count: number;
  object: number;
  className: string;
  own: boolean;
  inner: boolean;
  x: number;
  y: number;
  width: number;
  height: number;
}

interface Node {
  name: string;
  bytes: number;
  count: number;
  object: number;
  className: string;
  own: boolean;
  children?: Node[];
}

/** Pixels from which a box is drawn, and from which its inside is. */
const LEAST = 4;
const ROOMY = 70;

/** Boxes whose areas are as their bytes; what a holder is made of lies inside it. */
export function layOutHolders(boxes: readonly HolderBox[], width: number, height: number): MapBox[] {
  const root: Node = {
    name: '',
    bytes: 0,
    count: 0,
    object: -1,
    className: '',
    own: false,
    children: boxes.map((box) => {
      const inside = box.inside.map((group) => ({
        name: group.className.slice(group.className.lastIndexOf('.') + 1),
        bytes: group.shallowBytes,
        count: group.count,
        object: group.sample,
        className: group.className,
        own: group.own
      }));
      const left = box.retainedBytes - inside.reduce((sum, { bytes }) => sum + bytes, 0);
      const rest = { name: '', bytes: left, count: 0, object: -1, className: '', own: false };
      return {
        name: box.name,
        bytes: box.retainedBytes,
        count: box.count,
        object: box.object,
        className: '',
        own: box.own,
        ...(inside.length > 0 ? { children: left > 0 ? [...inside, rest] : inside } : {})
      };
    })
  };
  const laid = treemap<Node>()
    .size([width, height])
    .tile(treemapSquarify.ratio(1.4))
    .paddingOuter(3)
    .paddingTop((node) => (node.depth === 1 && node.children ? 22 : 3))
    .paddingInner(3)
    .round(true)(
    hierarchy(root)
      .sum((node) => (node.children ? 0 : Math.max(0, node.bytes)))
      .sort((a, b) => (b.value ?? 0) - (a.value ?? 0))
  );
  return laid
    .descendants()
    .filter(({ depth, data, parent, x0, x1, y0, y1 }) => {
      if (depth === 0 || data.name === '' || x1 - x0 < LEAST || y1 - y0 < LEAST) return false;
      // In a small box there is no room for what it is made of.
      if (depth === 1) return true;
      const roomy = parent!.x1 - parent!.x0 >= ROOMY && parent!.y1 - parent!.y0 >= ROOMY;
      return roomy && x1 < parent!.x1 && y1 < parent!.y1;
    })
    .map(({ data, depth, x0, y0, x1, y1 }) => ({
      name: data.name,
      bytes: data.bytes,
      count: data.count,
      object: data.object,
      className: data.className,
      own: data.own,
      inner: depth > 1,
      x: x0,
      y: y0,
      width: x1 - x0,
      height: y1 - y0
    }));
}
