import { NOT_AT_ALL, ELSEWHERE, INDEX, KEEP_ANSWERS } from './remedies';
import { makesTheSameCall } from './over-many-words';
import { words } from '../text/words';
import { lowerBoundBy } from '../binary-search';
import { CLOCK_STEP_NS } from '../trace/clock-step';
import { formatCount, formatDuration, formatShare } from '../text/format';
import { defineRule } from './define-rule';
import { atOrigin, type Found, type RuleContext } from './finding';
import { GROWTH_MIN_POINTS, GROWTH_MIN_R2 } from './loop-growth';
import { howTheyRan, loopFinding } from './loop-finding';
import type { Loop } from './loop';
import { LIKE_CALLS } from './loops';
import { answersAnew, isSessionStatement, isWrite } from './statement-shape';

/** Above this share of different literals a loop asks for another thing each time; below it `same-call-again` speaks. */
const MOSTLY_DIFFERENT = 0.5;
const UNKNOWN = ' The values were not recorded, so whether each asked for another one is not known.';

/** One query for each row of another: at least five like queries by the same path of span names, with differing or unknown literals (N+1). */
export const queryPerRow = defineRule({
  rule: 'query-per-row',
  name: 'One query per row',
  looksFor:
    'Similar queries that the request reaches by the same path of span names, one after another or side by side, with differing or unknown values (N+1). Pages, lists of keys and session statements are none. It names the query that came before and fed the loop, and over many requests how the calls grow with its rows.',
  thresholds: [
    LIKE_CALLS,
    {
      name: 'growth',
      value: `a line through at least ${GROWTH_MIN_POINTS} requests that explains ${formatShare(GROWTH_MIN_R2)}`,
      why: 'With less, no growth is stated.'
    }
  ],
  why: 'Each query is fast, so none stands out. But each costs a round trip, and their number grows with the data: harmless on test data, ruinous in production.',
  doThis: [
    NOT_AT_ALL,
    'Query once for all rows: join it to the query before, or pass the keys as one list.',
    ELSEWHERE,
    KEEP_ANSWERS,
    INDEX
  ],
  overMany: makesTheSameCall,
  spent: () => words`querying the database`,
  grows: { calls: 'calls', rows: 'fedByRows' },
  find: (context: RuleContext): Found[] =>
    context.loops.filter(isQueryLoop).map((loop) => {
      const feeder = feederOf(context, loop);
      const fed = feeder === undefined ? null : context.trace.tree.nodes[feeder].call!;
      const feed = fed
        ? `, after ${fed.fingerprint}${fed.rows === null ? '' : ` had returned ${formatCount(fed.rows)} rows`}`
        : '';
      const unknown = loop.distinct === null ? context.once(UNKNOWN) : '';
      return loopFinding(context, loop, {
        title: loop.distinct === null ? 'Similar queries in a loop' : 'One query per row',
        remedy:
          loop.atOnce > 1
            ? 'Query once for all rows: join it to the query before, or pass the keys as one list (a batching loader does). In parallel they hide their round trips, but each takes a connection.'
            : 'Query once for all rows: join it to the query before, or pass the keys as one list.',
        figures: { fedBy: fed?.fingerprint ?? null, fedByRows: fed?.rows ?? null },
        say: ({ share }) =>
          `The same query ran ${formatCount(loop.nodes.length)} times, ${howTheyRan(loop)}${differing(loop)}${feed}${atOrigin(loop.origin)}. It takes ${share} of this request; the longest took ${formatDuration(loop.slowestNs)}.${unknown}`
      });
    })
});

const isQueryLoop = (loop: Loop): boolean =>
  loop.kind === 'database' &&
  !isWrite(loop) &&
  !answersAnew(loop) &&
  (loop.distinct === null || loop.distinct > MOSTLY_DIFFERENT * loop.nodes.length);

function differing(loop: Loop): string {
  if (loop.distinct === null) return '';
  return loop.distinct === loop.nodes.length
    ? ', each time for another value'
    : `, for ${formatCount(loop.distinct)} different values`;
}

/** A loop that runs in turns with another, about as often, was not fed by it but by what came before both. */
const AS_OFTEN = 0.8;

/** The query that fed the loop: the last other read of this request that had ended when the loop began. */
function feederOf(context: RuleContext, loop: Loop): number | undefined {
  const { tree } = context.trace;
  const queries = queriesByEnd(context);
  const begin = tree.start[loop.nodes[0]];
  const alongside = new Set(
    context.loops
      .filter((other) => other.nodes.length >= AS_OFTEN * loop.nodes.length)
      .map(({ fingerprint }) => fingerprint)
  );
  // Ends are whole nanoseconds; some senders' clocks overlap by a step.
  let at = lowerBoundBy(queries.length, (i) => tree.end[queries[i]], begin + CLOCK_STEP_NS + 1) - 1;
  const isFeeder = (node: number): boolean =>
    tree.start[node] < begin && !alongside.has(tree.nodes[node].call!.fingerprint);
  while (at >= 0 && !isFeeder(queries[at])) at--;
  return at < 0 ? undefined : queries[at];
}

const queriesOf = new WeakMap<RuleContext, number[]>();

/** The request's reads by end; of those that end together the one that comes first in the request is the last. */
function queriesByEnd(context: RuleContext): number[] {
  let queries = queriesOf.get(context);
  if (!queries) {
    const { tree } = context.trace;
    queries = context.nodes
      .filter((node) => {
        const { call } = tree.nodes[node];
        return call?.kind === 'database' && !isWrite(call) && !isSessionStatement(call);
      })
      .reverse()
      .sort((a, b) => tree.end[a] - tree.end[b]);
    queriesOf.set(context, queries);
  }
  return queries;
}
