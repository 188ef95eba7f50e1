import type { FrameTable } from './frame-table';
import type { StackTree } from './model';
import { markOutermost } from './stack-tree';

/** Builds a stack tree from stacks told one after another: equal beginnings share their nodes. */
export class StackBuilder {
  readonly #table: FrameTable;
  readonly #frame: number[] = [];
  readonly #parent: number[] = [];
  /** Parent and frame → node. Sparse keys: a nested Map for each parent would cost many times the memory. */
  readonly #nodes = new Map<number, number>();

  constructor(table: FrameTable) {
    this.#table = table;
    this.#frame.push(table.indexOf('(root)', '', 0, 0, { kind: 'root', package: '' }));
    this.#parent.push(-1);
  }

  /** The node of a frame below another node; node 0 is the root. */
  child(parent: number, frame: number): number {
    const key = parent * 2 ** 24 + frame;
    let node = this.#nodes.get(key);
    if (node === undefined) {
      node = this.#frame.length;
      this.#nodes.set(key, node);
      this.#frame.push(frame);
      this.#parent.push(parent);
    }
    return node;
  }

  tree(): StackTree {
    const nodeFrame = Int32Array.from(this.#frame);
    const nodeParent = Int32Array.from(this.#parent);
    return {
      nodeFrame,
      nodeParent,
      nodeOutermost: markOutermost(nodeFrame, nodeParent, this.#table.frames.length)
    };
  }
}
