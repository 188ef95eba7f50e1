import type { Frame } from '../model';
import { readStackWeights } from './stack-weights';
import { isSameFunction, StackPlaces, type StackDictionary } from './stack-sums';

/**
 * Whose work a stack is: the innermost function of the application's own in it, since what a library does for it is its doing; the innermost call
 * where there is none. Functions are equal as in `isSameFunction`.
 */
export class StackOwners {
  /** One frame of each owner. */
  readonly frames: Frame[] = [];
  readonly #places: StackPlaces;
  /** Owner by place in the dictionary. */
  readonly #of: Int32Array;

  constructor(dictionary: StackDictionary) {
    const { frames, parent, frame } = dictionary;
    this.#places = new StackPlaces(dictionary);
    const owner = this.#ownersOf(frames);
    this.#of = new Int32Array(parent.length);
    for (let place = 0; place < parent.length; place++) {
      const above = parent[place] === 0 ? -1 : this.#places.of(parent[place]);
      const inherits = frames[frame[place]].kind !== 'app' && above >= 0 && this.#isApp(this.#of[above]);
      this.#of[place] = inherits ? this.#of[above] : owner[frame[place]];
    }
  }

  #isApp(owner: number): boolean {
    return this.frames[owner].kind === 'app';
  }

  #ownersOf(frames: readonly Frame[]): number[] {
    const byName = new Map<string, number[]>();
    return frames.map((frame) => {
      const key = `${frame.name} ${frame.file}`;
      const known = byName.get(key) ?? [];
      byName.set(key, known);
      const same = known.find((owner) => isSameFunction(this.frames[owner], frame));
      if (same !== undefined) return same;
      known.push(this.frames.length);
      return this.frames.push(frame) - 1;
    });
  }

  /** Adds to each owner what it had, microseconds. */
  add(bytes: Uint8Array, into: Float64Array): void {
    readStackWeights(bytes, (stack, us) => {
      const place = this.#places.of(stack);
      if (place >= 0) into[this.#of[place]] += us;
    });
  }
}
