import { Draws } from './draws';
import { sortedOrder } from './ranks';

export interface BootstrapOptions {
  /** How long each block is, samples. */
  blockLength: number;
  resamples: number;
  seed: number;
  /** Called now and then with the share that is done, 0 to 1. */
  onProgress?: (share: number) => void;
}

const PROGRESS_EVERY = 100;
/** So many standard deviations of a resample's rank its quantile is looked for at first; beyond, all ranks are. */
const BAND_WIDTH = 3;

/**
 * Quantiles (type 7) of moving-block resamples. Blocks of neighbouring samples are drawn with replacement until there are as many samples as before, so that what
 * neighbours have in common stays in the resample.
 * Source: H. R. Künsch, "The Jackknife and the Bootstrap for General Stationary Observations", Annals of Statistics 17 (1989).
 * @param values in order of time; at least one.
 * @param ps which quantiles, 0 to 1.
 * @returns for each of them the quantile of every resample.
 */
export function resampleQuantiles(
  values: ArrayLike<number>,
  ps: readonly number[],
  { blockLength, resamples, seed, onProgress }: BootstrapOptions
): Float64Array[] {
  const n = values.length;
  const order = sortedOrder(values);
  const placeOf = new Uint32Array(n);
  for (let place = 0; place < n; place++) placeOf[order[place]] = place;
  const sorted = Float64Array.from(order, (at) => values[at]);
  const draws = new Draws(seed);
  const length = Math.min(blockLength, n);
  const starts = n - length + 1;
  const blocks: Blocks = { from: new Uint32Array(Math.ceil(n / length)), length, all: n };
  const bands = ps.map((p) => {
    const half = Math.ceil(BAND_WIDTH * Math.sqrt(p * (1 - p) * n * length)) + 1;
    return new RankBand(placeOf, Math.floor((n - 1) * p) - half, Math.ceil((n - 1) * p) + half);
  });
  let whole: RankBand | undefined;
  const found = ps.map(() => new Float64Array(resamples));
  for (let resample = 0; resample < resamples; resample++) {
    for (let block = 0; block < blocks.from.length; block++)
      blocks.from[block] = Math.floor(draws.share() * starts);
    ps.forEach((p, column) => {
      const at = (n - 1) * p;
      const low = Math.floor(at);
      const places = [low, Math.min(n - 1, low + 1)];
      const [first, next] =
        bands[column].find(blocks, places) ?? (whole ??= new RankBand(placeOf, 0, n)).find(blocks, places)!;
      found[column][resample] = sorted[first] + (sorted[next] - sorted[first]) * (at - low);
    });
    if (onProgress && resample % PROGRESS_EVERY === 0) onProgress(resample / resamples);
  }
  return found;
}

/** A resample: where each of its blocks begins. The last is cut so that there are `all` samples. */
interface Blocks {
  from: Uint32Array;
  length: number;
  all: number;
}

/**
 * Finds which samples stand at some places of a resample, without sorting it: those below a band of ranks are counted by sums of whole blocks, and only the few
 * inside it one by one.
 */
class RankBand {
  readonly #low: number;
  /** How many of the samples before each have a rank below the band. */
  readonly #below: Uint32Array;
  /** How many of the samples before each lie in the band, and the ranks of those, in order of time. */
  readonly #inside: Uint32Array;
  readonly #ranks: Uint32Array;
  readonly #counts: Uint32Array;

  /** @param placeOf rank of each sample. The band holds ranks from `low` up to, not including, `high`. */
  constructor(placeOf: Uint32Array, low: number, high: number) {
    const n = placeOf.length;
    const [from, to] = [Math.max(0, low), Math.min(n, high)];
    this.#low = from;
    this.#below = new Uint32Array(n + 1);
    this.#inside = new Uint32Array(n + 1);
    this.#ranks = new Uint32Array(to - from);
    this.#counts = new Uint32Array(to - from);
    for (let i = 0, inside = 0; i < n; i++) {
      const place = placeOf[i];
      this.#below[i + 1] = this.#below[i] + (place < from ? 1 : 0);
      if (place >= from && place < to) this.#ranks[inside++] = place - from;
      this.#inside[i + 1] = inside;
    }
  }

  /**
   * @param places of the resample in ascending order.
   * @returns the ranks of the samples that stand there; null where one of them lies outside of the band.
   */
  find({ from, length, all }: Blocks, places: readonly number[]): number[] | null {
    const counts = this.#counts.fill(0);
    let below = 0;
    let inside = 0;
    for (let block = 0; block < from.length; block++) {
      const first = from[block];
      const end = first + Math.min(length, all - block * length);
      below += this.#below[end] - this.#below[first];
      const last = this.#inside[end];
      for (let i = this.#inside[first]; i < last; i++) counts[this.#ranks[i]]++;
      inside += last - this.#inside[first];
    }
    if (places[0] < below || places[places.length - 1] >= below + inside) return null;
    let rank = 0;
    let passed = below;
    return places.map((place) => {
      while (passed + counts[rank] <= place) passed += counts[rank++];
      return this.#low + rank;
    });
  }
}
