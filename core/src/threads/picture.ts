import { groupBy } from '../group-by';
import type { ThreadDump, ThreadFrame } from './model';
import { ownDepth } from './places';
import { poolPattern } from './pools';
import type { WaitsFor } from './waits-for';

/** Pixels. */
export const BOX_WIDTH = 168;
export const BOX_HEIGHT = 18;
const ROOT_HEIGHT = 38;
const ROW = 20;
const CYCLE_ROW = 48;
/** Between a box and the bar of the lock it holds, and from the bar to those who wait. */
const TO_BAR = 56;
const FROM_BAR = 12;
const COLUMN = BOX_WIDTH + TO_BAR + FROM_BAR;
const LABEL = 17;
const GAP = 14;
const MARGIN = 20;
/** Room for the arc that closes a cycle. */
const ARC = 46;

/** A thread, alike threads folded into one, or nobody. */
export interface PictureBox {
  kind: 'root' | 'thread' | 'fold' | 'nobody' | 'cycle';
  /** One, or those that are folded; none for nobody. */
  threads: readonly number[];
  /** Name pattern of folded threads. */
  pool: string;
  /** Queue it stands in; −1 for none. */
  queue: number;
  /** Box to its left: who it waits for. */
  parent: number;
  x: number;
  y: number;
  width: number;
  height: number;
}

/** The lock of a queue: a bar that its boxes stand behind. */
export interface PictureBar {
  queue: number;
  /** Box that holds the lock. */
  holder: number;
  x: number;
  top: number;
  bottom: number;
  waiting: number;
}

/** Threads that wait for each other in a circle: boxes one below the other, the last waiting for the first. */
export interface PictureCycle {
  boxes: number[];
  locks: number[];
}

export interface WaitsPicture {
  boxes: PictureBox[];
  bars: PictureBar[];
  cycles: PictureCycle[];
  width: number;
  height: number;
  /** Thread → its box; −1 where it is not in the picture. */
  boxOf: Int32Array;
}

/** Threads in one queue from which alike ones are folded. */
export const FOLD_FROM = 16;
/** Fewer of one pool stay as they are. */
const FOLD_LEAST = 4;

interface Item {
  kind: PictureBox['kind'];
  threads: readonly number[];
  pool: string;
  queue: number;
  blocks: Block[];
  height: number;
  /** From the top of the block it stands in. */
  y: number;
  /** Where its own blocks begin, from the same top. */
  below: number;
  box: number;
}
interface Block {
  queue: number;
  waiting: number;
  items: Item[];
  label: number;
  height: number;
}

/**
 * Lays out who waits for whom: root blockers at the left, the queue for each lock to the right of who holds it.
 * @param unfolded name patterns whose threads are shown one by one.
 */
export function waitsPicture(
  frames: readonly ThreadFrame[],
  dump: ThreadDump,
  waits: WaitsFor,
  unfolded: ReadonlySet<string> = new Set()
): WaitsPicture {
  const builder = new PictureBuilder(dump, waits, unfolded);
  const roots: Block[] = [];
  for (const { threads } of waits.deadlocks) roots.push(builder.cycle(threads));
  for (const thread of new Set(waits.rootBlockers.map((root) => root.thread)))
    roots.push(builder.root(thread));
  for (const queue of waits.ownerless)
    if (!waits.queues[queue].condition || standsInProgram(frames, dump, waits.queues[queue].waiting))
      roots.push(builder.nobody(queue));
  return place(roots, waits, dump.threads.length);
}

/** Pool threads that wait for work stand in the runtime's own code only: they are not worth drawing. */
function standsInProgram(
  frames: readonly ThreadFrame[],
  { threads }: ThreadDump,
  waiting: readonly number[]
): boolean {
  return waiting.some((thread) => ownDepth(frames, threads[thread]) >= 0);
}

class PictureBuilder {
  readonly #dump: ThreadDump;
  readonly #waits: WaitsFor;
  readonly #unfolded: ReadonlySet<string>;
  /** A queue is drawn once, behind the first who holds its lock. */
  readonly #drawn = new Set<number>();

  constructor(dump: ThreadDump, waits: WaitsFor, unfolded: ReadonlySet<string>) {
    this.#dump = dump;
    this.#waits = waits;
    this.#unfolded = unfolded;
  }

  root(thread: number): Block {
    return this.#grown({ queue: -1, waiting: 0, items: [this.#item('root', [thread])], label: 0, height: 0 });
  }

  nobody(queue: number): Block {
    const item = this.#item('nobody', []);
    item.blocks = [this.#block(queue, new Set())];
    return this.#grown({ queue: -1, waiting: 0, items: [item], label: 0, height: 0 });
  }

  cycle(threads: readonly number[]): Block {
    const inside = new Set(threads);
    const items = threads.map((thread) => this.#item('cycle', [thread]));
    return this.#grown({ queue: -1, waiting: 0, items, label: LABEL, height: 0 }, inside);
  }

  #item(kind: Item['kind'], threads: readonly number[], queue = -1, pool = ''): Item {
    const height = kind === 'root' || kind === 'nobody' ? ROOT_HEIGHT : kind === 'cycle' ? CYCLE_ROW : ROW;
    return { kind, threads, pool, queue, blocks: [], height, y: 0, below: 0, box: -1 };
  }

  /** Hangs the queues behind every item, and sizes all from the outside in; without recursion: chains are long. */
  #grown(start: Block, outside: ReadonlySet<number> = new Set()): Block {
    const all: Block[] = [];
    for (const open = [start]; open.length > 0;) {
      const block = open.pop()!;
      all.push(block);
      for (const item of block.items) {
        if (item.threads.length === 1 && item.kind !== 'fold')
          for (const queue of this.#waits.heldQueues[item.threads[0]]) {
            if (this.#drawn.has(queue)) continue;
            const behind = this.#block(queue, outside);
            if (behind.items.length > 0) item.blocks.push(behind);
          }
        for (const block of item.blocks) open.push(block);
      }
    }
    for (let i = all.length - 1; i >= 0; i--) size(all[i]);
    return start;
  }

  #block(queue: number, outside: ReadonlySet<number>): Block {
    this.#drawn.add(queue);
    const { heldQueues, queues } = this.#waits;
    const waiting = queues[queue].waiting.filter((thread) => !outside.has(thread));
    const plain = waiting.filter((thread) => heldQueues[thread].length === 0);
    const holding = waiting.filter((thread) => heldQueues[thread].length > 0);
    const items: Item[] = [];
    const pools = groupBy(plain, (thread) => poolPattern(this.#dump.threads[thread].name));
    for (const [pool, threads] of pools) {
      const folds = waiting.length >= FOLD_FROM && threads.length >= FOLD_LEAST && !this.#unfolded.has(pool);
      if (folds) items.push(this.#item('fold', threads, queue, pool));
      else for (const thread of threads) items.push(this.#item('thread', [thread], queue, pool));
    }
    for (const thread of holding) items.push(this.#item('thread', [thread], queue));
    return { queue, waiting: waiting.length, items, label: LABEL, height: 0 };
  }
}

/** Rows below each other; what hangs behind a row may use the room beside the rows above that have nothing behind them. */
function size(block: Block): void {
  let row = block.label;
  let free = 0;
  let bottom = block.label;
  for (const item of block.items) {
    const behind = item.blocks.reduce(
      (sum, { height }) => sum + height + GAP,
      item.blocks.length > 0 ? -GAP : 0
    );
    if (behind === 0) item.y = row;
    else {
      item.y = Math.max(row, free);
      item.below = Math.max(free, item.y + item.height / 2 - behind / 2);
      free = item.below + behind + GAP;
    }
    row = item.y + item.height;
    bottom = Math.max(bottom, row, free - GAP);
  }
  block.height = bottom;
}

function place(roots: readonly Block[], waits: WaitsFor, threads: number): WaitsPicture {
  const picture: WaitsPicture = {
    boxes: [],
    bars: [],
    cycles: [],
    width: 0,
    height: MARGIN,
    boxOf: new Int32Array(threads).fill(-1)
  };
  for (const root of roots) {
    const isCycle = root.items[0].kind === 'cycle';
    placeBlock(root, MARGIN + (isCycle ? ARC : 0), picture.height, picture);
    if (isCycle)
      picture.cycles.push({
        boxes: root.items.map(({ box }) => box),
        locks: root.items.map(({ threads: [thread] }) => waits.queues[waits.queueOf[thread]].lock)
      });
    picture.height += root.height + GAP * 2;
  }
  for (const { x, width } of picture.boxes) picture.width = Math.max(picture.width, x + width + MARGIN);
  return picture;
}

function placeBlock(start: Block, left: number, top: number, picture: WaitsPicture): void {
  const open = [{ block: start, x: left, y: top, parent: -1 }];
  while (open.length > 0) {
    const { block, x, y, parent } = open.pop()!;
    if (block.queue >= 0)
      picture.bars.push({
        queue: block.queue,
        holder: parent,
        x: x - FROM_BAR,
        top: y + block.label - 2,
        bottom: y + block.height,
        waiting: block.waiting
      });
    for (const item of block.items) {
      item.box = picture.boxes.length;
      const tall = item.kind === 'root' || item.kind === 'nobody';
      picture.boxes.push({
        kind: item.kind,
        threads: item.threads,
        pool: item.pool,
        queue: item.queue,
        parent,
        x,
        y: y + item.y,
        width: BOX_WIDTH,
        height: tall ? ROOT_HEIGHT : item.kind === 'cycle' ? BOX_HEIGHT + 8 : BOX_HEIGHT
      });
      for (const thread of item.threads) picture.boxOf[thread] = item.box;
      let below = y + item.below;
      for (const behind of item.blocks) {
        open.push({ block: behind, x: x + COLUMN, y: below, parent: item.box });
        below += behind.height + GAP;
      }
    }
  }
}
