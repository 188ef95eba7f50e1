import type { Profile } from '../model';
import { coverageOf } from './coverage';
import type { SliceSums } from './merge-slices';
import { FunctionInSums, StackSums, type StackDictionary } from './stack-sums';

/** A slice of a scope, and the release it ran. */
export type ScopeSlice = SliceSums & { release: number };

/** The recordings of a scope as one, and what they are made of. Microseconds. */
export interface ScopeSums {
  /** Weighs `busyUs`. */
  profile: Profile;
  /** Time covered, added up over processes. */
  coveredUs: number;
  processes: number;
  busyUs: number;
  /** Of processes, also where the weights are of one endpoint. */
  idleUs: number;
  /** Requests whose own time was recorded, parts of them as parts; of one endpoint its own. */
  requests: number;
  /** Of `busyUs`, what was divided among requests that ran at the same time; 0 where the weights are of all there is. */
  sharedUs: number;
  samples: number;
}

/**
 * Adds up the recordings of a scope. Where recordings of one process overlap, each counts in part (`coverageOf`).
 * @param ofEndpoint the weights are those of the endpoints’ shares alone, which all belong to the scope
 */
export function sumScope(
  dictionary: StackDictionary,
  slices: readonly ScopeSlice[],
  ofEndpoint: boolean,
  valueType: 'cpu' | 'wall'
): ScopeSums {
  const { factors, coveredUs, processes } = coverageOf(slices);
  const sums = new StackSums(dictionary);
  let [idleUs, requests, sharedUs, samples] = [0, 0, 0, 0];
  slices.forEach((slice, i) => {
    if (!ofEndpoint) sums.add(slice.weights, factors[i]);
    for (const share of slice.endpoints) {
      requests += share.requests * factors[i];
      if (!ofEndpoint) continue;
      sums.add(share.weights, factors[i]);
      sharedUs += share.sharedUs * factors[i];
    }
    idleUs += slice.idleUs * factors[i];
    samples += slice.samples;
  });
  const profile = { ...sums.profile(valueType, coveredUs), recordedSamples: samples };
  const busyUs = profile.sampleWeight.reduce((sum, ns) => sum + ns, 0) / 1000;
  return { profile, coveredUs, processes, busyUs, idleUs, requests, sharedUs, samples };
}

/** What a function took in one slice. */
export interface FunctionPoint {
  startUs: number;
  lengthUs: number;
  spanUs: number;
  release: number;
  requests: number;
  selfUs: number;
  totalUs: number;
}

/** What a function took of an endpoint. */
export interface FunctionOfEndpoint {
  endpoint: number;
  requests: number;
  selfUs: number;
  totalUs: number;
  /** All CPU of the endpoint. */
  busyUs: number;
}

/**
 * A function over the time and the endpoints of a scope.
 * @param frame index into the frames of the dictionary
 */
export function functionOver(
  dictionary: StackDictionary,
  slices: readonly ScopeSlice[],
  ofEndpoint: boolean,
  frame: number
): { points: FunctionPoint[]; endpoints: FunctionOfEndpoint[] } {
  const { factors } = coverageOf(slices);
  const of = new FunctionInSums(dictionary, dictionary.frames[frame]);
  const endpoints = new Map<number, FunctionOfEndpoint>();
  const points = slices.map((slice, i): FunctionPoint => {
    const { startUs, lengthUs, spanUs, release } = slice;
    const point = {
      startUs,
      lengthUs,
      spanUs: spanUs * factors[i],
      release,
      requests: 0,
      selfUs: 0,
      totalUs: 0
    };
    const add = (to: { selfUs: number; totalUs: number }, weights: Uint8Array): void => {
      const { selfUs, totalUs } = of.of(weights);
      to.selfUs += selfUs * factors[i];
      to.totalUs += totalUs * factors[i];
    };
    if (!ofEndpoint) add(point, slice.weights);
    for (const share of slice.endpoints) {
      point.requests += share.requests * factors[i];
      if (ofEndpoint) add(point, share.weights);
      let sum = endpoints.get(share.endpoint);
      if (!sum)
        endpoints.set(
          share.endpoint,
          (sum = { endpoint: share.endpoint, requests: 0, selfUs: 0, totalUs: 0, busyUs: 0 })
        );
      sum.requests += share.requests * factors[i];
      sum.busyUs += share.busyUs * factors[i];
      add(sum, share.weights);
    }
    return point;
  });
  return { points, endpoints: [...endpoints.values()].sort((a, b) => b.totalUs - a.totalUs) };
}
