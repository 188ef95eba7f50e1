import { midRanks } from './ranks';

/**
 * How the samples of one series hang together: requests that come one after another share a warm cache, a busy neighbour, a queue, so that a hundred of
 * them tell less than a hundred would that have nothing to do with each other.
 */
export interface Dependence {
  /** How long the blocks of a moving-block bootstrap are, at least ⌈n^(1/3)⌉. */
  blockLength: number;
  /**
   * By how much a resample made of such blocks is to be stretched about the estimate: what reaches over the ends of a block is not in its variance, which falls short by
   * Σ|k|·R(k) ÷ (length · ΣR(k)) (the first-order bias in Künsch 1989, theorem 3.3, from memory).
   */
  stretch: number;
  /** So many independent samples would tell as much: at least 1, at most as many as there are. */
  effective: number;
}

/** A correlation under this many standard errors is taken for none. Politis & White (2004), 3.2: c = 2. */
const NOTABLE = 2;

/** More than half of the variance is never added: then the estimate of the shortfall is itself too rough. */
const MOST_MISSED = 0.5;

/**
 * The dependence of samples in order of time. Correlations are those of the ranks: a single request of a minute would hide what the others have in common.
 * Source of the block length: D. N. Politis, H. White, "Automatic Block-Length Selection for the Dependent Bootstrap", Econometric Reviews 23 (2004), with
 * the correction of A. Patton, D. N. Politis, H. White (2009), for blocks of fixed length. Formulae from memory.
 */
export function dependenceOf(values: ArrayLike<number>): Dependence {
  const n = values.length;
  const least = Math.max(1, Math.ceil(Math.cbrt(n)));
  if (n < 4) return { blockLength: least, stretch: 1, effective: Math.max(1, n) };
  const correlations = new Correlations(midRanks(values));
  if (!correlations.varies) return { blockLength: least, stretch: 1, effective: n };
  const lags = notableLags(correlations);
  // ĝ(0) = Σ λ·R(k), and G = Σ λ·|k|·R(k), over k from −M to M, as shares of the variance.
  let spectrum = 1;
  let slope = 0;
  for (let k = 1; k <= lags; k++) {
    const weighted = 2 * flatTop(k / lags) * correlations.at(k);
    spectrum += weighted;
    slope += k * weighted;
  }
  spectrum = Math.max(spectrum, 1 / n);
  const wanted = Math.cbrt(((2 * slope ** 2) / ((4 / 3) * spectrum ** 2)) * n);
  const most = Math.ceil(Math.min(3 * Math.sqrt(n), n / 3));
  const blockLength = Math.max(least, Math.min(most, Math.ceil(wanted)));
  const missed = Math.min(MOST_MISSED, Math.max(0, slope / (blockLength * spectrum)));
  return {
    blockLength,
    stretch: 1 / Math.sqrt(1 - missed),
    effective: Math.min(n, Math.max(1, n / spectrum))
  };
}

/** Twice the lag after which correlations are no longer notable: M = 2·m̂ of Politis & White. */
function notableLags(correlations: Correlations): number {
  const n = correlations.length;
  const quiet = Math.max(5, Math.ceil(Math.sqrt(Math.log10(n))));
  const limit = NOTABLE * Math.sqrt(Math.log10(n) / n);
  const most = Math.min(n - 1, Math.ceil(Math.sqrt(n)) + quiet);
  let last = 0;
  for (let k = 1; k <= most && k - last <= quiet; k++) if (Math.abs(correlations.at(k)) >= limit) last = k;
  return Math.min(2 * last, most);
}

/** The flat-top lag window: 1 up to a half, then falling to 0 at 1. */
const flatTop = (share: number): number => (share <= 0.5 ? 1 : 2 * (1 - share));

/** Autocorrelations of a series, each worked out when it is first asked for. */
class Correlations {
  readonly length: number;
  readonly #rests: Float64Array;
  readonly #squares: number;
  readonly #known: number[] = [];

  constructor(values: Float64Array) {
    this.length = values.length;
    const mean = values.reduce((sum, value) => sum + value, 0) / values.length;
    this.#rests = values.map((value) => value - mean);
    this.#squares = this.#rests.reduce((sum, rest) => sum + rest * rest, 0);
  }

  get varies(): boolean {
    return this.#squares > 0;
  }

  at(lag: number): number {
    return (this.#known[lag] ??= this.#sumAt(lag) / this.#squares);
  }

  #sumAt(lag: number): number {
    let sum = 0;
    for (let i = lag; i < this.length; i++) sum += this.#rests[i] * this.#rests[i - lag];
    return sum;
  }
}
