import type { StackTree } from './model';
import { markOutermost } from './stack-tree';

/** Builds a stack tree from stacks added one by one: equal prefixes share their nodes. */
export class StackBuilder {
  readonly #frame: number[];
  readonly #parent: number[] = [-1];
  /** Parent and frame → node. Sparse keys: a nested Map for each parent would cost many times the memory. */
  readonly #nodes = new Map<number, number>();

  /** @param rootFrame the frame of node 0. */
  constructor(rootFrame: number) {
    this.#frame = [rootFrame];
  }

  /** Adds a whole tree. @param frameOf its frames → those built with. @returns its nodes → those built. */
  add(
    { nodeFrame, nodeParent }: Pick<StackTree, 'nodeFrame' | 'nodeParent'>,
    frameOf: ArrayLike<number>
  ): Int32Array {
    const of = new Int32Array(nodeFrame.length);
    for (let node = 1; node < of.length; node++)
      of[node] = this.child(of[nodeParent[node]], frameOf[nodeFrame[node]]);
    return of;
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

  /** @param frames how many functions there are. */
  tree(frames: number): StackTree {
    const nodeFrame = Int32Array.from(this.#frame);
    const nodeParent = Int32Array.from(this.#parent);
    return { nodeFrame, nodeParent, nodeOutermost: markOutermost(nodeFrame, nodeParent, frames) };
  }
}
