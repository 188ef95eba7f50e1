/**
 * Keeps the order in which things were first shown while live figures change: what comes later stands below, so that nothing moves under the reader’s
 * eyes. A new place has an order of its own.
 */
export class SteadyOrder {
  #place = '';
  #order = new Map<string, number>();

  /** @param place what is looked at: another one begins anew */
  of<T>(place: string, items: readonly T[], keyOf: (item: T) => string): T[] {
    if (place !== this.#place) {
      this.#place = place;
      this.#order = new Map();
    }
    for (const key of items.map(keyOf)) if (!this.#order.has(key)) this.#order.set(key, this.#order.size);
    return items.toSorted((a, b) => this.#order.get(keyOf(a))! - this.#order.get(keyOf(b))!);
  }
}
