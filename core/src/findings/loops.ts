import { groupBy } from '../group-by';
import { commonOrigin, distinctLiterals } from '../calls/groups';
import type { CallKind } from '../calls/call';
import { median } from '../stats/percentile';
import { CLOCK_STEP_NS } from '../trace/replay';
import { extents, type TraceTree } from '../trace/tree';
import type { RuleContext } from './finding';

/** Fewer like calls than this may be a list written by hand; from five on it is a loop. Common practice. */
export const LOOP_MIN_CALLS = 5;
/** A stray overlap (a retry, say) does not make a loop a parallel batch. */
const MAX_OVERLAPPING = 0.05;

/** Like calls made one after another under one parent. Nanoseconds. */
export interface Loop {
  parent: number;
  kind: CallKind;
  fingerprint: string;
  verb: string;
  nodes: number[];
  distinct: number | null;
  origin: string;
  totalNs: number;
  fastestNs: number;
  slowestNs: number;
  medianNs: number;
  /** The part of the critical path between these calls' starts and ends. */
  bookedNs: number;
}

/** Finds the loops of a request: at least five like calls under one parent that do not overlap. */
export function findLoops(context: Omit<RuleContext, 'loops'>): Loop[] {
  const { tree } = context.trace;
  const calls = context.nodes.filter((node) => tree.nodes[node].span.call && tree.parent[node] >= 0);
  const byKey = groupBy(calls, (node) => {
    const { kind, fingerprint } = tree.nodes[node].span.call!;
    return `${tree.parent[node]} ${kind} ${fingerprint}`;
  });
  const loops: Loop[] = [];
  for (const nodes of byKey.values()) {
    if (nodes.length < LOOP_MIN_CALLS) continue;
    nodes.sort((a, b) => tree.start[a] - tree.start[b]);
    if (isSequential(tree, nodes)) loops.push(describe(context, nodes));
  }
  return loops;
}

/** Neighbours hardly overlap, and together they do not last longer than the time they span: two clocks' worth of doubt at most. */
function isSequential(tree: TraceTree, nodes: readonly number[]): boolean {
  let overlapping = 0;
  let sum = 0;
  let end = -Infinity;
  for (const node of nodes) {
    if (tree.start[node] < end - CLOCK_STEP_NS) overlapping++;
    sum += tree.end[node] - tree.start[node];
    end = Math.max(end, tree.end[node]);
  }
  const extent = end - tree.start[nodes[0]];
  return (
    overlapping <= MAX_OVERLAPPING * nodes.length && sum <= extent * (1 + MAX_OVERLAPPING) + CLOCK_STEP_NS
  );
}

function describe(context: Omit<RuleContext, 'loops'>, nodes: number[]): Loop {
  const { tree } = context.trace;
  const call = tree.nodes[nodes[0]].span.call!;
  const durations = nodes.map((node) => tree.end[node] - tree.start[node]);
  return {
    parent: tree.parent[nodes[0]],
    kind: call.kind,
    fingerprint: call.fingerprint,
    verb: call.verb,
    nodes,
    distinct: distinctLiterals(tree, nodes),
    origin: commonOrigin(tree, nodes),
    totalNs: durations.reduce((sum, took) => sum + took, 0),
    fastestNs: durations.reduce((least, took) => Math.min(least, took)),
    slowestNs: durations.reduce((most, took) => Math.max(most, took)),
    medianNs: median(durations),
    bookedNs: bookedBelow(context, nodes)
  };
}

/** The critical path's time inside these nodes of the request and everything below them; what lies within another of them counts once. */
export function bookedBelow(
  { trace: { tree }, bookedWithin }: Pick<RuleContext, 'trace' | 'bookedWithin'>,
  tops: readonly number[]
): number {
  // Brothers and sisters lie in none of each other.
  if (tops.every((node) => tree.parent[node] === tree.parent[tops[0]])) {
    let together = 0;
    for (const node of new Set(tops)) together += bookedWithin(node);
    return together;
  }
  const { first, last } = extents(tree);
  const inOrder = [...new Set(tops)].sort((a, b) => first[a] - first[b]);
  let covered = -1;
  let sum = 0;
  for (const node of inOrder) {
    if (first[node] <= covered) continue;
    covered = last[node];
    sum += bookedWithin(node);
  }
  return sum;
}

/**
 * What making the loop one call would save, as a range, by replaying the request: at the least one round trip for each
 * call but one, (n − 1) × the fastest; at the most everything but one call of median length.
 */
export function mergeSaving({ request, replay }: RuleContext, loop: Loop): { lowNs: number; highNs: number } {
  const after = (callNs: number): number =>
    Math.max(0, request.durationNs - replay.durationNs(mergedInto(loop, callNs)));
  const low = (loop.nodes.length - 1) * loop.fastestNs;
  const lowNs = after(loop.totalNs - low);
  return { lowNs, highNs: Math.max(lowNs, after(loop.medianNs)) };
}

/** The edit that makes a loop one call of so many nanoseconds. */
export const mergedInto = (loop: Loop, callNs: number): Map<number, number> =>
  new Map(loop.nodes.map((node, i) => [node, i === 0 ? callNs : 0]));
