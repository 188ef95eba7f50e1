import { partNameOf, requestParts } from '../calls/parts';
import type { FoundRequest } from '../inspect/accounted-batches';
import { PartSums, type Spent } from './compared-side';
import { partKey, type SideTotals } from './difference-ledger';

/**
 * What a part of some requests is made of in turn: the call itself, and what the services below it did, each by its own parts. It adds up to what is booked to the part.
 * @param key of the part, see `partKey`.
 */
export function insideCall(requests: readonly FoundRequest[], key: string): SideTotals {
  const sums = new PartSums();
  let totalNs = 0;
  for (const one of requests) {
    const spent = spentInside(one, key);
    totalNs += spent.reduce((sum, { bookedNs }) => sum + bookedNs, 0);
    sums.add(spent);
  }
  return { requests: requests.length, totalNs, parts: sums.list() };
}

function spentInside({ trace, request }: FoundRequest, key: string): Spent[] {
  const { tree } = trace;
  const heads = new Set(
    requestParts(trace, request)
      .filter((part) => partKey(part) === key)
      .flatMap(({ nodes }) => nodes)
  );
  if (heads.size === 0) return [];
  // What a service below did belongs to the span that asked for it: the nearest one going up of this request itself.
  const isInside = (node: number): boolean => {
    let at = node;
    while (at >= 0 && trace.innermost[at] !== request.node) at = tree.parent[at];
    return heads.has(at);
  };
  const spent = new Map<string, Spent>();
  const spentAt = (node: number): Spent => {
    const { kind, name, verb } = partNameOf(tree, node);
    const { service } = tree.nodes[node].span.resource;
    const known = spent.get(`${service}\n${kind}\n${name}`);
    if (known) return known;
    const fresh: Spent = { kind, name: `${service}: ${name}`, verb, parent: '', count: 0, bookedNs: 0 };
    spent.set(`${service}\n${kind}\n${name}`, fresh);
    return fresh;
  };
  for (const node of request.nodes) if (isInside(node)) spentAt(node).count++;
  for (const { node, from, to } of request.stretches) if (isInside(node)) spentAt(node).bookedNs += to - from;
  return [...spent.values()];
}
