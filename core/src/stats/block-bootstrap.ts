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
/** Samples of one coarse count: a quantile is found by walking over these first. */
const COARSE_BITS = 8;

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
  // How often each sample is in the resample, in ascending order of the samples: no resample needs to be sorted.
  const counts = new Uint32Array(n);
  const coarse = new Uint32Array((n >> COARSE_BITS) + 1);
  const found = ps.map(() => new Float64Array(resamples));
  for (let resample = 0; resample < resamples; resample++) {
    counts.fill(0);
    coarse.fill(0);
    for (let filled = 0; filled < n; filled += length) {
      const from = Math.floor(draws.share() * starts);
      const to = from + Math.min(length, n - filled);
      for (let i = from; i < to; i++) {
        const place = placeOf[i];
        counts[place]++;
        coarse[place >> COARSE_BITS]++;
      }
    }
    ps.forEach((p, column) => {
      const at = (n - 1) * p;
      const low = Math.floor(at);
      const first = placeAt(counts, coarse, low);
      const value = sorted[first];
      const next = at > low ? sorted[placeAt(counts, coarse, low + 1)] : value;
      found[column][resample] = value + (next - value) * (at - low);
    });
    if (onProgress && resample % PROGRESS_EVERY === 0) onProgress(resample / resamples);
  }
  return found;
}

/** Which sample, of those in ascending order, stands at a place of the resample. */
function placeAt(counts: Uint32Array, coarse: Uint32Array, place: number): number {
  let left = place;
  let block = 0;
  while (left >= coarse[block]) left -= coarse[block++];
  let at = block << COARSE_BITS;
  while (left >= counts[at]) left -= counts[at++];
  return at;
}
