/** Keeps what was computed. Without a limit it only ever grows. */
export class WindowCache<T> {
  readonly #entries = new Map<string, T>();
  readonly #limit: number;

  constructor(limit: number) {
    this.#limit = limit;
  }

  get(key: string, compute: () => T): T {
    const known = this.#entries.get(key);
    if (known !== undefined) return known;
    const value = compute();
    this.#entries.set(key, value);
    if (this.#entries.size > this.#limit) this.#entries.delete(this.#entries.keys().next().value!);
    return value;
  }
}
