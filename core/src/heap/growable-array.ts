type Column = Float64Array | Uint32Array | Uint8Array;

/** Numbers that come one after another, nobody knows how many. */
export class GrowableArray<T extends Column> {
  items: T;
  length = 0;
  readonly #make: new (length: number) => T;

  /** @param expected how many are thought to come. */
  constructor(make: new (length: number) => T, expected = 1 << 16) {
    this.#make = make;
    this.items = new make(Math.max(16, expected));
  }

  push(value: number): void {
    this.reserve(1);
    this.items[this.length++] = value;
  }

  /** Makes room for so many more, which are then written at `length` and counted there. @returns the items. */
  reserve(more: number): T {
    if (this.length + more > this.items.length) {
      const wider = new this.#make(Math.max(this.length + more, Math.ceil(this.items.length * 1.6)));
      wider.set(this.items);
      this.items = wider;
    }
    return this.items;
  }

  /** What came; nothing is left. It lies where it lay: room beyond it that was never written to takes no memory. */
  take(): T {
    const taken = this.items.subarray(0, this.length) as T;
    this.items = new this.#make(0);
    this.length = 0;
    return taken;
  }
}
