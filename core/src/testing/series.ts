import { Draws } from '../stats/draws';

/**
 * Samples whose truth is known: logarithms are normal, and each depends on the one before it by `phi` (an AR(1) process). Seeded.
 * @param phi 0 for independent samples.
 * @param spread standard deviation of the logarithms.
 */
export class LogNormalSeries {
  static readonly MIDDLE = 100;
  static readonly SPREAD = 0.5;
  readonly #draws: Draws;
  readonly #phi: number;
  readonly #spread: number;

  constructor(seed: number, phi: number, spread: number = LogNormalSeries.SPREAD) {
    this.#draws = new Draws(seed);
    this.#phi = phi;
    this.#spread = spread;
  }

  take(count: number, middle = LogNormalSeries.MIDDLE): Float64Array {
    let state = this.#normal();
    return Float64Array.from({ length: count }, () => {
      state = this.#phi * state + Math.sqrt(1 - this.#phi ** 2) * this.#normal();
      return middle * Math.exp(this.#spread * state);
    });
  }

  /** Source: the transform of G. E. P. Box, M. E. Muller (1958). */
  #normal(): number {
    return Math.sqrt(-2 * Math.log(1 - this.#draws.share())) * Math.cos(2 * Math.PI * this.#draws.share());
  }
}
