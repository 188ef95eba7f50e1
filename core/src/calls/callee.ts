import { isEntry } from '../trace/endpoint';
import type { TraceTree } from '../trace/tree';

/**
 * The service that answers some calls: that of the entry spans right below them, of another process.
 * @param nodes the calls @returns '' where the trace has no such span, or those of several services
 */
export function calleeOf({ nodes: all, children }: TraceTree, nodes: readonly number[]): string {
  const services = new Set<string>();
  for (const node of nodes)
    for (const child of children[node]) {
      const { span } = all[child];
      if (isEntry(span) && span.resource.key !== all[node].span.resource.key)
        services.add(span.resource.service);
    }
  return services.size === 1 ? [...services][0] : '';
}
