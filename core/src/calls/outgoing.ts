import { groupBy } from '../group-by';
import { numberOf } from '../trace/span';
import type { TraceTree } from '../trace/tree';
import { callPhases } from './phases';

/** Outgoing HTTP calls of one status, added up. Times are nanoseconds. */
export interface OutgoingSums {
  /** The status of the answer; 0 where none came, or none was recorded. */
  status: number;
  calls: number;
  /** Calls that ask what an earlier call of the same request had asked. */
  repeated: number;
  /** Calls that tell anything of their phases; and those of them that tell the first byte. */
  phased: number;
  answered: number;
  lookupNs: number;
  connectNs: number;
  tlsNs: number;
  firstByteNs: number;
  restNs: number;
}

/** Statuses of HTTP (RFC 9110, section 15). */
const isStatus = (value: number | undefined): value is number =>
  value !== undefined && Number.isInteger(value) && value >= 100 && value <= 599;

/**
 * Like outgoing calls of one request by their status.
 * @param nodes calls of one group
 */
export function outgoingSums(tree: TraceTree, nodes: readonly number[]): OutgoingSums[] {
  const statusOf = (node: number): number => {
    const status = numberOf(
      tree.nodes[node].span.attributes,
      'http.response.status_code',
      'http.status_code'
    );
    return isStatus(status) ? status : 0;
  };
  const again = repeatedOf(tree, nodes);
  return [...groupBy(nodes, statusOf)].map(([status, alike]) => {
    const sums: OutgoingSums = {
      status,
      calls: alike.length,
      repeated: alike.filter((node) => again.has(node)).length,
      phased: 0,
      answered: 0,
      lookupNs: 0,
      connectNs: 0,
      tlsNs: 0,
      firstByteNs: 0,
      restNs: 0
    };
    for (const node of alike) addPhases(sums, tree, node);
    return sums;
  });
}

/** Calls whose literals an earlier one had; none of those whose literals are not known. */
function repeatedOf(tree: TraceTree, nodes: readonly number[]): Set<number> {
  const seen = new Set<number>();
  const again = new Set<number>();
  for (const node of nodes.toSorted((a, b) => tree.start[a] - tree.start[b])) {
    const literals = tree.nodes[node].call?.literals ?? null;
    if (literals === null) continue;
    if (seen.has(literals)) again.add(node);
    seen.add(literals);
  }
  return again;
}

function addPhases(sums: OutgoingSums, tree: TraceTree, node: number): void {
  const phases = callPhases(tree, node);
  if (!phases) return;
  sums.phased++;
  sums.lookupNs += phases.lookupNs;
  sums.connectNs += phases.connectNs;
  sums.tlsNs += phases.tlsNs;
  if (phases.firstByteNs === null) return;
  sums.answered++;
  sums.firstByteNs += phases.firstByteNs;
  sums.restNs += phases.restNs ?? 0;
}
