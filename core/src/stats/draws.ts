/**
 * A generator of 32-bit numbers from a seed, the same on every machine.
 * Source: SplitMix32, the 32-bit variant of Steele, Lea & Flood, "Fast Splittable Pseudorandom Number Generators" (2014), constants from memory.
 */
export class Draws {
  #state: number;

  constructor(seed: number) {
    this.#state = seed >>> 0;
  }

  /** An integer from 0 to 2³² − 1. */
  next(): number {
    this.#state = (this.#state + 0x9e3779b9) >>> 0;
    let z = this.#state;
    z = Math.imul(z ^ (z >>> 16), 0x21f0aaad);
    z = Math.imul(z ^ (z >>> 15), 0x735a2d97);
    return (z ^ (z >>> 15)) >>> 0;
  }

  /** From 0 up to, not including, 1. */
  share(): number {
    return this.next() / 0x1_0000_0000;
  }

  /** An integer between two, both included. */
  between(least: number, most: number): number {
    return least + Math.floor(this.share() * (most - least + 1));
  }
}
