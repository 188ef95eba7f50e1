import type { StackTree } from './model';
import { markOutermost } from './stack-tree';

const FIRST_ROOM = 1024;

/**
 * Builds a stack tree from stacks added one by one: equal prefixes share their nodes. Nodes lie in flat arrays and are found by a hash of parent and frame in
 * another (open addressing): profiles may have millions.
 */
export class StackBuilder {
  #frame = new Int32Array(FIRST_ROOM);
  #parent = new Int32Array(FIRST_ROOM);
  #size = 1;
  /** Nodes by the hash of their parent and frame; 0, the root, which is nobody's child, stands for none. Twice as many as there is room for nodes. */
  #slots = new Int32Array(2 * FIRST_ROOM);

  /** @param rootFrame the frame of node 0. */
  constructor(rootFrame: number) {
    this.#frame[0] = rootFrame;
    this.#parent[0] = -1;
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
    const slots = this.#slots;
    let at = this.#slotOf(parent, frame);
    for (let node = slots[at]; node !== 0; node = slots[at]) {
      if (this.#parent[node] === parent && this.#frame[node] === frame) return node;
      at = (at + 1) & (slots.length - 1);
    }
    const node = this.#size++;
    slots[at] = node;
    this.#frame[node] = frame;
    this.#parent[node] = parent;
    if (this.#size === this.#frame.length) this.#grow();
    return node;
  }

  /** @param frames how many functions there are. */
  tree(frames: number): StackTree {
    const nodeFrame = this.#frame.slice(0, this.#size);
    const nodeParent = this.#parent.slice(0, this.#size);
    return { nodeFrame, nodeParent, nodeOutermost: markOutermost(nodeFrame, nodeParent, frames) };
  }

  #slotOf(parent: number, frame: number): number {
    const hash = Math.imul(parent, 0x9e3779b1) ^ Math.imul(frame, 0x85ebca6b);
    return (hash ^ (hash >>> 15)) & (this.#slots.length - 1);
  }

  #grow(): void {
    const room = 2 * this.#frame.length;
    const [frame, parent] = [new Int32Array(room), new Int32Array(room)];
    frame.set(this.#frame);
    parent.set(this.#parent);
    [this.#frame, this.#parent] = [frame, parent];
    const slots = (this.#slots = new Int32Array(2 * room));
    for (let node = 1; node < this.#size; node++) {
      let at = this.#slotOf(parent[node], frame[node]);
      while (slots[at] !== 0) at = (at + 1) & (slots.length - 1);
      slots[at] = node;
    }
  }
}
