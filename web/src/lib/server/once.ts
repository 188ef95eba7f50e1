/** What is worked out at the first asking and remembered. A failure is not: the next asking tries again. */
export class Once<T> {
  readonly #work: () => Promise<T>;
  #result: Promise<T> | undefined;

  constructor(work: () => Promise<T>) {
    this.#work = work;
  }

  get(): Promise<T> {
    return (this.#result ??= this.#work().catch((cause: unknown) => {
      this.forget();
      throw cause;
    }));
  }

  /** True once somebody has asked. */
  get asked(): boolean {
    return this.#result !== undefined;
  }

  /** The next asking works it out anew. */
  forget(): void {
    this.#result = undefined;
  }
}
