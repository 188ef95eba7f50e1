/** Lets through so many a minute, evenly: a bucket that fills again as time goes by. Times are monotonic. */
export class Rate {
  readonly #perMinute: number;
  #left: number;
  #atMs: number;

  constructor(perMinute: number, nowMs: number) {
    this.#perMinute = perMinute;
    this.#left = perMinute;
    this.#atMs = nowMs;
  }

  /** @returns whether one more may pass */
  take(nowMs: number): boolean {
    this.#left = Math.min(this.#perMinute, this.#left + ((nowMs - this.#atMs) / 60_000) * this.#perMinute);
    this.#atMs = nowMs;
    if (this.#left < 1) return false;
    this.#left--;
    return true;
  }
}
