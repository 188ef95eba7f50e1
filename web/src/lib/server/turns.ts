/** Work on one thing, one after another; on different things side by side. */
export class Turns {
  readonly #last = new Map<string, Promise<unknown>>();

  take<T>(key: string, work: () => Promise<T>): Promise<T> {
    const result = (this.#last.get(key) ?? Promise.resolve()).then(work);
    const settled = result.catch(() => undefined);
    this.#last.set(key, settled);
    void settled.then(() => {
      if (this.#last.get(key) === settled) this.#last.delete(key);
    });
    return result;
  }
}
