import { expose } from 'comlink';
import { sideOf } from '@tromix/core/compare/compared-side';
import {
  differenceLedger,
  type DifferenceLedger,
  type SideTotals
} from '@tromix/core/compare/difference-ledger';
import { insideCall } from '@tromix/core/compare/inside-call';
import { groupBy } from '@tromix/core/group-by';
import type { FoundRequest } from '@tromix/core/inspect/accounted-batches';
import { eachSide, type Sides } from '@tromix/core/sides';
import { accountTrace } from '@tromix/core/trace/requests';
import type { Resource } from '@tromix/core/trace/span';
import { buildTree } from '@tromix/core/trace/tree';
import type { SideTraces } from '$lib/server/queries/sides/side-traces';
import { spansFrom } from '$lib/stored-spans';

let sides: Sides<FoundRequest[]> | undefined;

/** What sums do not tell of two sides, worked out from the spans of their newest requests. */
const service = {
  /** @returns how many requests of each side were read. */
  async open(url: string): Promise<Sides<number>> {
    const response = await fetch(url);
    if (!response.ok) throw new Error('The traces of the two sides could not be read.');
    sides = eachSide((await response.json()) as Sides<SideTraces>, requestsOf);
    return eachSide(sides, ({ length }) => length);
  },
  byService: (): DifferenceLedger => ledgerOf((requests) => sideOf(requests).totals.service),
  /** @param keys of the call on each side; null where a side has none. */
  inside: (keys: Sides<string | null>): DifferenceLedger =>
    ledgerOf((requests, side) => insideCall(requests, keys[side] ?? ''))
};
export type SideTracesService = typeof service;

function ledgerOf(
  totals: (requests: FoundRequest[], side: keyof Sides<unknown>) => SideTotals
): DifferenceLedger {
  if (!sides) throw new Error('No traces are open.');
  return differenceLedger(eachSide(sides, totals));
}

function requestsOf({ requests, spans, resources }: SideTraces): FoundRequest[] {
  const processes = new Map(
    resources.map(([id, resource]): [number, Resource] => [id, { ...resource, attributes: new Map() }])
  );
  const traces = new Map(
    [...groupBy(spansFrom(spans, processes), ({ traceId }) => traceId)].map(([id, list]) => [
      id,
      accountTrace(buildTree(list))
    ])
  );
  return requests.flatMap(({ traceId, spanId }) => {
    const trace = traces.get(traceId);
    const request = trace?.requests.find(({ node }) => trace.tree.nodes[node].span.spanId === spanId);
    return trace && request ? [{ trace, request }] : [];
  });
}

expose(service);
