import type { Warning } from '../formats/evidence-error';
import type { TraceBatch } from '../formats/otlp/traces';
import { groupBy } from '../group-by';
import { accountBatches, serviceOf, type FoundRequest } from '../inspect/accounted-batches';
import { eachSide, type Side, type Sides } from '../sides';
import { compareMany } from './compare-many';
import { sideOf, type ComparedSide } from './compared-side';
import type { Comparison } from './comparison';
import type { SureOptions } from './how-sure';

/** An endpoint that both sides have. */
export interface ComparedEndpoint {
  service: string;
  endpoint: string;
  comparison: Comparison;
}

/** Two sets of traces held against each other, endpoint by endpoint. */
export interface ComparedBatches {
  /** What clearly changed first, then by the time of both sides. */
  endpoints: ComparedEndpoint[];
  /** Endpoints that one side has alone. */
  only: Record<Side, { service: string; endpoint: string; requests: number }[]>;
  warnings: Sides<Warning[]>;
}

/** Compares two sets of trace batches, each taken as one system. */
export function compareBatches(
  batches: Sides<readonly TraceBatch[]>,
  options: SureOptions = {}
): ComparedBatches {
  const accounted = eachSide(batches, accountBatches);
  const found = eachSide(accounted, ({ requests }) => groupBy(requests, endpointKey));
  const keys = [...found.before.keys()].filter((key) => found.after.has(key));
  const pairs = keys.map((key) => eachSide(found, (side) => sideOf(side.get(key)!)));
  const comparisons = compareMany(pairs, options);
  const endpoints = keys.map((key, i) => ({
    ...endpointOf(key),
    comparison: comparisons[i],
    weight: weightOf(pairs[i])
  }));
  endpoints.sort((a, b) => clearFirst(a.comparison) - clearFirst(b.comparison) || b.weight - a.weight);
  const only = (side: Side, other: Side): ComparedBatches['only'][Side] =>
    [...found[side]]
      .filter(([key]) => !found[other].has(key))
      .map(([key, requests]) => ({ ...endpointOf(key), requests: requests.length }));
  return {
    endpoints: endpoints.map(({ service, endpoint, comparison }) => ({ service, endpoint, comparison })),
    only: { before: only('before', 'after'), after: only('after', 'before') },
    warnings: eachSide(accounted, ({ warnings }) => warnings)
  };
}

const endpointKey = (one: FoundRequest): string => JSON.stringify([serviceOf(one), one.request.endpoint]);
function endpointOf(key: string): { service: string; endpoint: string } {
  const [service, endpoint] = JSON.parse(key) as [string, string];
  return { service, endpoint };
}

const weightOf = ({ before, after }: Sides<ComparedSide>): number =>
  before.totals.part.totalNs + after.totals.part.totalNs;
const clearFirst = ({ sure }: Comparison): number => (sure.about === null ? 1 : 0);
