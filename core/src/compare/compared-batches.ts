import type { Warning } from '../formats/evidence-error';
import type { TraceBatch } from '../formats/otlp/traces';
import { groupBy } from '../group-by';
import { accountBatches, serviceOf, type FoundRequest } from '../inspect/accounted-batches';
import { eachSide, type Side, type Sides } from '../sides';
import { compareMany } from './compare-many';
import { sideOf, type ComparedSide } from './compared-side';
import type { Comparison } from './comparison';
import { namesSameRoute } from './route-names';
import type { SureOptions } from './how-sure';

/** An endpoint that both sides have. */
export interface ComparedEndpoint {
  service: string;
  endpoint: string;
  comparison: Comparison;
}

/** An endpoint that one side has alone. */
export interface OnlyEndpoint {
  service: string;
  endpoint: string;
  requests: number;
  /** What the other side seems to call it, by its route or by an id; '' for nothing like it. */
  alike: string;
}

/** Two sets of traces held against each other, endpoint by endpoint. */
export interface ComparedBatches {
  /** What clearly changed first, then by the time of both sides. */
  endpoints: ComparedEndpoint[];
  /** Endpoints that one side has alone. */
  only: Record<Side, OnlyEndpoint[]>;
  warnings: Sides<Warning[]>;
}

/** The endpoints of some batches as sides of a comparison, by their keys. */
export interface EndpointSides {
  byEndpoint: Map<string, ComparedSide>;
  warnings: Warning[];
}

/** Takes batches as one system, endpoint by endpoint. */
export function endpointSides(batches: readonly TraceBatch[]): EndpointSides {
  const { requests, warnings } = accountBatches(batches);
  return {
    byEndpoint: new Map([...groupBy(requests, endpointKey)].map(([key, list]) => [key, sideOf(list)])),
    warnings
  };
}

/** Compares two sets of trace batches, each taken as one system. */
export const compareBatches = (
  batches: Sides<readonly TraceBatch[]>,
  options: SureOptions = {}
): ComparedBatches => compareEndpoints(eachSide(batches, endpointSides), options);

/** Compares the endpoints that both sides have. */
export function compareEndpoints(sides: Sides<EndpointSides>, options: SureOptions = {}): ComparedBatches {
  const { before, after } = eachSide(sides, ({ byEndpoint }) => byEndpoint);
  const keys = [...before.keys()].filter((key) => after.has(key));
  const pairs = keys.map((key) => ({ before: before.get(key)!, after: after.get(key)! }));
  const comparisons = compareMany(pairs, options);
  const endpoints = keys.map((key, i) => ({
    ...endpointOf(key),
    comparison: comparisons[i],
    weight: weightOf(pairs[i])
  }));
  endpoints.sort((a, b) => clearFirst(a.comparison) - clearFirst(b.comparison) || b.weight - a.weight);
  const only = (
    side: Map<string, ComparedSide>,
    other: Map<string, ComparedSide>
  ): ComparedBatches['only'][Side] =>
    [...side]
      .filter(([key]) => !other.has(key))
      .map(([key, { totals }]) => ({
        ...endpointOf(key),
        requests: totals.part.requests,
        alike: alikeIn(endpointOf(key), other.keys())
      }));
  return {
    endpoints: endpoints.map(({ service, endpoint, comparison }) => ({ service, endpoint, comparison })),
    only: { before: only(before, after), after: only(after, before) },
    warnings: eachSide(sides, ({ warnings }) => warnings)
  };
}

export const keyOfEndpoint = (service: string, endpoint: string): string =>
  JSON.stringify([service, endpoint]);
const endpointKey = (one: FoundRequest): string => keyOfEndpoint(serviceOf(one), one.request.endpoint);
/** The service and the endpoint of a key. */
export function endpointOf(key: string): { service: string; endpoint: string } {
  const [service, endpoint] = JSON.parse(key) as [string, string];
  return { service, endpoint };
}

const weightOf = ({ before, after }: Sides<ComparedSide>): number =>
  before.totals.part.totalNs + after.totals.part.totalNs;
const clearFirst = ({ sure }: Comparison): number => (sure.about === null ? 1 : 0);

function alikeIn(
  { service, endpoint }: Pick<OnlyEndpoint, 'service' | 'endpoint'>,
  keys: Iterable<string>
): string {
  for (const key of keys) {
    const other = endpointOf(key);
    if (other.service === service && namesSameRoute(endpoint, other.endpoint)) return other.endpoint;
  }
  return '';
}
