import { coverageOf, type SliceTime } from './coverage';
import type { EndpointShare } from './condense';
import { readStackWeights, writeStackWeights } from './stack-weights';

/** A stored slice. Weights are bytes as in `stack-weights.ts`. */
export interface SliceSums extends SliceTime {
  samples: number;
  busyUs: number;
  idleUs: number;
  weights: Uint8Array;
  endpoints: EndpointSums[];
}

/** What an endpoint had of a stored slice. */
export type EndpointSums = Omit<EndpointShare, 'weights'> & { weights: Uint8Array };

/** Several slices as one. */
export type MergedSlice = Omit<SliceSums, 'process'>;

/**
 * Adds slices up as one that lasts from the first one's beginning to the last one's end. Slices of one process that overlap count each in part, as
 * `coverageOf` says; requests and CPU of endpoints alike.
 */
export function mergeSlices(slices: readonly SliceSums[]): MergedSlice {
  const { factors, coveredUs } = coverageOf(slices);
  const startUs = slices.reduce((least, slice) => Math.min(least, slice.startUs), Infinity);
  const endUs = slices.reduce((most, slice) => Math.max(most, slice.startUs + slice.lengthUs), 0);
  const sum = (figure: (slice: SliceSums) => number): number =>
    slices.reduce((total, slice, i) => total + figure(slice) * factors[i], 0);
  const weights = new Sums();
  const endpoints = new Map<number, { requests: number; sharedUs: number; weights: Sums }>();
  slices.forEach((slice, i) => {
    weights.add(slice.weights, factors[i]);
    for (const share of slice.endpoints) {
      let of = endpoints.get(share.endpoint);
      if (!of) endpoints.set(share.endpoint, (of = { requests: 0, sharedUs: 0, weights: new Sums() }));
      of.requests += share.requests * factors[i];
      of.sharedUs += share.sharedUs * factors[i];
      of.weights.add(share.weights, factors[i]);
    }
  });
  return {
    startUs,
    lengthUs: endUs - startUs,
    spanUs: Math.round(coveredUs),
    samples: slices.reduce((total, { samples }) => total + samples, 0),
    busyUs: weights.busyUs,
    idleUs: Math.round(sum(({ idleUs }) => idleUs)),
    weights: weights.bytes,
    endpoints: [...endpoints].map(([endpoint, of]) => ({
      endpoint,
      requests: of.requests,
      busyUs: of.weights.busyUs,
      sharedUs: Math.min(of.weights.busyUs, Math.round(of.sharedUs)),
      weights: of.weights.bytes
    }))
  };
}

/** Weights of stacks by their numbers. Microseconds. */
class Sums {
  readonly #weights = new Map<number, number>();

  add(bytes: Uint8Array, factor: number): void {
    readStackWeights(bytes, (stack, us) =>
      this.#weights.set(stack, (this.#weights.get(stack) ?? 0) + us * factor)
    );
  }

  /** What the written weights come to: each is a whole number. */
  get busyUs(): number {
    let busyUs = 0;
    for (const us of this.#weights.values()) busyUs += Math.round(us);
    return busyUs;
  }

  get bytes(): Uint8Array {
    return writeStackWeights(this.#weights);
  }
}
