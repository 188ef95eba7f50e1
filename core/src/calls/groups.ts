import { groupBy } from '../group-by';
import { isFailed, type RequestAccount } from '../trace/requests';
import type { TraceTree } from '../trace/tree';
import type { CallKind } from './call';
import { commonOrigin } from './origin';
import type { RequestPart } from './parts';

/** Calls alike but for their literals, within one request. Nanoseconds. */
export interface CallGroup {
  kind: CallKind;
  fingerprint: string;
  verb: string;
  count: number;
  /** How many different literals were asked for; null where literals were not recorded for all of them. */
  distinct: number | null;
  totalNs: number;
  fastestNs: number;
  slowestNs: number;
  /** The group's own part of the critical path. */
  bookedNs: number;
  failed: number;
  /** Where most of them were made; '' where unknown. */
  origin: string;
  nodes: number[];
}

/** Groups the calls below a request, heaviest by total time first. */
export function callGroups(tree: TraceTree, { nodes, booked }: RequestAccount): CallGroup[] {
  const calls = nodes.filter((node) => tree.nodes[node].call);
  // One grouping within the other: a key of both texts would be made for each of thousands of calls.
  const byKind = groupBy(calls, (node) => tree.nodes[node].call!.kind);
  return [...byKind.values()]
    .flatMap((ofKind) => [...groupBy(ofKind, (node) => tree.nodes[node].call!.fingerprint).values()])
    .map((alike) => groupOf(tree, alike, booked))
    .sort(byTotal);
}

/** The groups of the calls a request makes itself, heaviest by total time first: those of requests inside it are theirs. */
export const ownCallGroups = (tree: TraceTree, parts: readonly RequestPart[]): CallGroup[] =>
  parts.flatMap((part) => callGroupOf(tree, part) ?? []).sort(byTotal);

/** A part as a group of calls; null for spans that are no calls. */
function callGroupOf(tree: TraceTree, part: RequestPart): CallGroup | null {
  const call = tree.nodes[part.nodes[0]].call;
  if (!call) return null;
  const { count, totalNs, fastestNs, slowestNs, ownNs, failed, origin, nodes } = part;
  return {
    kind: call.kind,
    fingerprint: call.fingerprint,
    verb: call.verb,
    count,
    distinct: distinctLiterals(tree, nodes),
    totalNs,
    fastestNs,
    slowestNs,
    bookedNs: ownNs,
    failed,
    origin,
    nodes
  };
}

const byTotal = (a: CallGroup, b: CallGroup): number =>
  b.totalNs - a.totalNs || (a.fingerprint < b.fingerprint ? -1 : 1);

function groupOf(tree: TraceTree, nodes: number[], booked: ReadonlyMap<number, number>): CallGroup {
  const call = tree.nodes[nodes[0]].call!;
  let totalNs = 0;
  let fastestNs = Infinity;
  let slowestNs = 0;
  let bookedNs = 0;
  let failed = 0;
  for (const node of nodes) {
    const took = tree.end[node] - tree.start[node];
    totalNs += took;
    fastestNs = Math.min(fastestNs, took);
    slowestNs = Math.max(slowestNs, took);
    bookedNs += booked.get(node) ?? 0;
    if (isFailed(tree.nodes[node].span)) failed++;
  }
  return {
    kind: call.kind,
    fingerprint: call.fingerprint,
    verb: call.verb,
    count: nodes.length,
    distinct: distinctLiterals(tree, nodes),
    totalNs,
    fastestNs,
    slowestNs,
    bookedNs,
    failed,
    origin: commonOrigin(tree, nodes),
    nodes
  };
}

/** How many different literals these calls carried; null where some did not say. */
export function distinctLiterals(tree: TraceTree, nodes: readonly number[]): number | null {
  const seen = new Set<number>();
  for (const node of nodes) {
    const literals = tree.nodes[node].call?.literals ?? null;
    if (literals === null) return null;
    seen.add(literals);
  }
  return seen.size;
}
