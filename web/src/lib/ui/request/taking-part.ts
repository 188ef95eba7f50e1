import type { TakingPart } from '$lib/server/queries/hosts/taking-part';
import type { RequestModel } from './request-model';

/** So many are asked of. */
const MOST = 50;

/** The processes that took part in a request, in the order they came in. */
export function takingPart({ trace, request }: RequestModel): TakingPart[] {
  const found = new Map<string, TakingPart>();
  for (const node of request.nodes) {
    const { host, pid, service } = trace.tree.nodes[node].span.resource;
    found.set(`${host} ${pid} ${service}`, { host, pid, service });
  }
  return [...found.values()].slice(0, MOST);
}
