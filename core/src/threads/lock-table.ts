import type { Lock } from './model';

/** The locks of one dump by what they are called there. */
export class LockTable {
  readonly locks: Lock[] = [];
  readonly #byId = new Map<string, number>();

  /** The number of a lock; a class that comes later completes it. */
  indexOf(id: string, className: string): number {
    const known = this.#byId.get(id);
    if (known !== undefined) {
      if (className !== '' && this.locks[known].className === '') this.locks[known].className = className;
      return known;
    }
    this.#byId.set(id, this.locks.length);
    this.locks.push({ id, className });
    return this.locks.length - 1;
  }
}
