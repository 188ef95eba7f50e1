/** So many a second, and no more at once: what it costs to look at stacks is bounded whatever a program does. */
export class Budget {
  readonly #perSecond: number;
  readonly #now: () => number;
  #left: number;
  #at: number;

  /** @param now milliseconds */
  constructor(perSecond: number, now: () => number = () => performance.now()) {
    this.#perSecond = perSecond;
    this.#now = now;
    this.#left = perSecond;
    this.#at = now();
  }

  /** @returns false where it is used up. */
  take(): boolean {
    const at = this.#now();
    this.#left = Math.min(this.#perSecond, this.#left + ((at - this.#at) / 1000) * this.#perSecond);
    this.#at = at;
    if (this.#left < 1) return false;
    this.#left--;
    return true;
  }
}
