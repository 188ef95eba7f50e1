import { groupBy } from '../group-by';
import { distinctLiterals } from '../calls/groups';
import { commonOrigin } from '../calls/origin';
import { median } from '../stats/percentile';
import { CLOCK_STEP_NS } from '../trace/clock-step';
import { spanPaths } from '../trace/span-path';
import { extents, type TraceTree } from '../trace/tree';
import type { RuleContext } from './finding';
import type { Loop } from './loop';
import { asksForList, isPaged, isSessionStatement } from './statement-shape';

/** Fewer like calls than this may be a list written by hand; from five on it is a loop. Common practice. */
export const LOOP_MIN_CALLS = 5;
/** A stray overlap (a retry, say) does not make a loop a parallel batch. */
const MAX_OVERLAPPING = 0.05;

/** The threshold that all rules about loops share. */
export const LIKE_CALLS = {
  name: 'similar calls',
  value: `${LOOP_MIN_CALLS} or more`,
  why: 'Fewer may be written out by hand; five or more are a loop. Common practice.'
};

/**
 * Finds the loops of a request: at least five like calls that the request reaches by the same path of span names, whatever other spans stand
 * between, one after another or side by side. What sets up a session, reads page after page, or asks for a list of keys is none.
 */
export function findLoops(context: Omit<RuleContext, 'loops'>): Loop[] {
  const { tree } = context.trace;
  const calls = context.nodes.filter((node) => tree.nodes[node].call && tree.parent[node] >= 0);
  if (calls.length < LOOP_MIN_CALLS) return [];
  // One grouping within the other: most calls are of few kinds, and a path is worked out only for those that repeat.
  const alike = groupBy(calls, (node) => tree.nodes[node].call!.fingerprint);
  let path: ((node: number) => number) | undefined;
  const loops: Loop[] = [];
  for (const nodes of alike.values()) {
    if (nodes.length < LOOP_MIN_CALLS || isNoLoop(tree, nodes)) continue;
    path ??= spanPaths(tree, context.request.node);
    for (const same of groupBy(nodes, path).values()) {
      if (same.length < LOOP_MIN_CALLS) continue;
      same.sort((a, b) => tree.start[a] - tree.start[b] || a - b);
      const loop = describe(context, same);
      if (loop.bookedNs > 0) loops.push(loop);
    }
  }
  return loops;
}

/** Statements that repeat for another reason than a row each. */
function isNoLoop(tree: TraceTree, nodes: readonly number[]): boolean {
  const call = tree.nodes[nodes[0]].call!;
  if (call.kind !== 'database') return false;
  if (isSessionStatement(call)) return true;
  const rows = nodes.map((node) => tree.nodes[node].call!.rows);
  if (isPaged(call)) return !rows.every((count) => count !== null) || arePages(rows);
  // A list of keys each time is a batch, unless every answer is a single row.
  return asksForList(call) && !rows.every((count) => count !== null && count <= 1);
}

/** Pages are full, but for the last. */
const arePages = (rows: readonly number[]): boolean =>
  rows[0] > 1 && rows.slice(0, -1).every((count) => count === rows[0]) && rows[rows.length - 1] <= rows[0];

/**
 * How many of these calls ran at once at the most; 1 where each waited for the one before: where neighbours hardly overlap by more than a clock's
 * step, and together they last no longer than the time they span.
 * @param nodes by start.
 */
function mostAtOnce(tree: TraceTree, nodes: readonly number[]): number {
  const running: number[] = [];
  let [overlapping, sum, most, over] = [0, 0, 1, -Infinity];
  for (const node of nodes) {
    const [start, end] = [tree.start[node], tree.end[node]];
    if (start < over - CLOCK_STEP_NS) overlapping++;
    for (let i = running.length - 1; i >= 0; i--) if (running[i] <= start) running.splice(i, 1);
    running.push(end);
    most = Math.max(most, running.length);
    sum += end - start;
    over = Math.max(over, end);
  }
  const extent = over - tree.start[nodes[0]];
  const inTurn =
    overlapping <= MAX_OVERLAPPING * nodes.length && sum <= extent * (1 + MAX_OVERLAPPING) + CLOCK_STEP_NS;
  return inTurn ? 1 : most;
}

function describe(context: Omit<RuleContext, 'loops'>, nodes: number[]): Loop {
  const { tree } = context.trace;
  const call = tree.nodes[nodes[0]].call!;
  const durations = nodes.map((node) => tree.end[node] - tree.start[node]);
  return {
    kind: call.kind,
    fingerprint: call.fingerprint,
    verb: call.verb,
    nodes,
    atOnce: mostAtOnce(tree, nodes),
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
 * What making the loop one call would save, as a range, by replaying the request. One after another: at the least one round trip for each call
 * but one, (n − 1) × the fastest; at the most everything but one call of median length. Side by side the calls cost the request little more
 * than the slowest of them: at the least the one call takes as long as that.
 */
export function mergeSaving({ request, replay }: RuleContext, loop: Loop): { lowNs: number; highNs: number } {
  const after = (callNs: number): number =>
    Math.max(0, request.durationNs - replay.durationNs(mergedInto(loop, callNs)));
  const roundTrips = (loop.nodes.length - 1) * loop.fastestNs;
  const lowNs = after(loop.atOnce > 1 ? loop.slowestNs : loop.totalNs - roundTrips);
  return { lowNs, highNs: Math.max(lowNs, after(loop.medianNs)) };
}

/** The edit that makes a loop one call of so many nanoseconds. */
export const mergedInto = (loop: Loop, callNs: number): Map<number, number> =>
  new Map(loop.nodes.map((node, i) => [node, i === 0 ? callNs : 0]));
