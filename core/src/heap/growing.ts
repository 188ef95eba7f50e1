type Column = Float64Array | Uint32Array | Uint8Array;

/** Numbers that come one after another, nobody knows how many. */
export class Growing<T extends Column> {
  items: T;
  length = 0;
  readonly #make: new (length: number) => T;

  /** @param expected how many are thought to come. */
  constructor(make: new (length: number) => T, expected = 1 << 16) {
    this.#make = make;
    this.items = new make(Math.max(16, expected));
  }

  push(value: number): void {
    if (this.length === this.items.length) {
      const wider = new this.#make(Math.ceil(this.items.length * 1.6));
      wider.set(this.items);
      this.items = wider;
    }
    this.items[this.length++] = value;
  }

  /** What came, in an array of just that length; nothing is left. */
  take(): T {
    const taken = (this.length === this.items.length ? this.items : this.items.slice(0, this.length)) as T;
    this.items = new this.#make(0);
    this.length = 0;
    return taken;
  }
}
