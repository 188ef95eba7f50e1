import type { Frame, Profile, ValueType } from '../model';
import { markOutermost } from '../stack-tree';
import { readStackWeights } from './stack-weights';

/** Stacks by their numbers, which sums refer to. */
export interface StackDictionary {
  frames: Frame[];
  /** Numbers, ascending: what a stack stands in has a lower one. */
  stack: Int32Array;
  /** Number of the stack without its innermost call; 0 for none. */
  parent: Int32Array;
  /** Innermost call: index into `frames`. */
  frame: Int32Array;
}

/** Finds the place of a stack in its dictionary by its number. */
export class StackPlaces {
  readonly #lowest: number;
  readonly #place: Int32Array;

  constructor({ stack }: StackDictionary) {
    this.#lowest = stack[0] ?? 0;
    this.#place = new Int32Array(stack.length > 0 ? stack[stack.length - 1] - this.#lowest + 1 : 0).fill(-1);
    stack.forEach((of, place) => (this.#place[of - this.#lowest] = place));
  }

  /** −1 where there is none. */
  of(stack: number): number {
    return this.#place[stack - this.#lowest] ?? -1;
  }
}

/** Adds up weights of stacks of many recordings. What a stack is does not matter until they are read. */
export class StackSums {
  readonly #dictionary: StackDictionary;
  readonly #places: StackPlaces;
  /** Microseconds by place in the dictionary. */
  readonly #weights: Float64Array;

  constructor(dictionary: StackDictionary) {
    this.#dictionary = dictionary;
    this.#places = new StackPlaces(dictionary);
    this.#weights = new Float64Array(dictionary.stack.length);
  }

  /**
   * @param bytes see `stack-weights.ts`; stacks that the dictionary lacks are passed over
   * @param factor what they are multiplied by: of recordings that overlap each counts in part
   */
  add(bytes: Uint8Array, factor = 1): void {
    readStackWeights(bytes, (stack, us) => {
      const place = this.#places.of(stack);
      if (place >= 0) this.#weights[place] += us * factor;
    });
  }

  /** The sums as a profile whose samples have no times: one sample for each stack. @param spanUs for how long was recorded */
  profile(valueType: ValueType, spanUs: number): Profile {
    const { frames, parent, frame } = this.#dictionary;
    const rootFrame = frames.length;
    const nodes = parent.length + 1;
    const nodeFrame = new Int32Array(nodes);
    const nodeParent = new Int32Array(nodes);
    nodeFrame[0] = rootFrame;
    nodeParent[0] = -1;
    for (let place = 0; place < parent.length; place++) {
      nodeFrame[place + 1] = frame[place];
      nodeParent[place + 1] = parent[place] === 0 ? 0 : this.#places.of(parent[place]) + 1;
    }
    const sampled: number[] = [];
    for (let place = 0; place < parent.length; place++) if (this.#weights[place] > 0) sampled.push(place);
    const all = [...frames, ROOT];
    return {
      valueType,
      unit: 'nanoseconds',
      frames: all,
      nodeFrame,
      nodeParent,
      nodeOutermost: markOutermost(nodeFrame, nodeParent, all.length),
      sampleNode: Int32Array.from(sampled, (place) => place + 1),
      sampleTime: new Float64Array(sampled.length),
      sampleWeight: Float64Array.from(sampled, (place) => this.#weights[place] * 1000),
      sampleThread: null,
      threads: ['all threads'],
      durationNs: 0,
      recordedNs: spanUs * 1000,
      ticks: null
    };
  }
}

const ROOT: Frame = { name: '(root)', file: '', line: 0, column: 0, package: '', kind: 'root' };

/**
 * Tells what one function had of sums. A function is the same in several releases where its name and file are; one without a name also where its
 * place in the file is.
 */
export class FunctionInSums {
  readonly #places: StackPlaces;
  /** By place: 1 where the stack runs through the function, 2 where it is the innermost call. */
  readonly #in: Uint8Array;

  constructor(dictionary: StackDictionary, wanted: Pick<Frame, 'name' | 'file' | 'line' | 'column'>) {
    const { frames, parent, frame } = dictionary;
    this.#places = new StackPlaces(dictionary);
    const is = frames.map((one) => isSameFunction(one, wanted));
    this.#in = new Uint8Array(parent.length);
    for (let place = 0; place < parent.length; place++) {
      const above = parent[place] === 0 ? 0 : this.#in[this.#places.of(parent[place])];
      this.#in[place] = is[frame[place]] ? 2 : above > 0 ? 1 : 0;
    }
  }

  /** Microseconds in the function itself, and with what it calls. */
  of(bytes: Uint8Array): { selfUs: number; totalUs: number } {
    let [selfUs, totalUs] = [0, 0];
    readStackWeights(bytes, (stack, us) => {
      const place = this.#places.of(stack);
      const inside = place < 0 ? 0 : this.#in[place];
      if (inside > 0) totalUs += us;
      if (inside === 2) selfUs += us;
    });
    return { selfUs, totalUs };
  }
}

const NAMELESS = '(anonymous)';

/** Whether two frames, perhaps of several releases, are the same function. */
export function isSameFunction(
  a: Pick<Frame, 'name' | 'file' | 'line' | 'column'>,
  b: Pick<Frame, 'name' | 'file' | 'line' | 'column'>
): boolean {
  if (a.name !== b.name || a.file !== b.file) return false;
  return a.name !== NAMELESS || (a.line === b.line && a.column === b.column);
}
