import { firstAtLeast } from '../binary-search';
import { formatCount, formatDuration, formatShare } from '../text/format';
import {
  callEvidence,
  severityOf,
  withEdit,
  type Finding,
  type FindingRule,
  type RuleContext
} from './finding';
import { mergedInto, mergeSaving, type Loop } from './loops';

/** Verbs that change data: a loop of these is `row-by-row-writes`. */
const WRITES = new Set(['insert', 'update', 'delete', 'merge', 'replace', 'upsert']);
/** Above this share of different literals a loop asks for another thing each time; below it `same-call-again` speaks. */
const MOSTLY_DIFFERENT = 0.5;

/** One query for each row of another: at least five like queries under one parent, one after another, differing literals (N+1). */
export const queryPerRow: FindingRule = (context) =>
  databaseLoops(context, false).map((loop) => {
    const feeder = feederOf(context, loop);
    const fed = feeder === undefined ? null : context.trace.tree.nodes[feeder].span.call!;
    const origin = loop.origin ? `, at ${loop.origin}` : '';
    const feed = fed
      ? ` after ${fed.fingerprint}${fed.rows === null ? '' : ` had returned ${formatCount(fed.rows)} rows`}`
      : '';
    const finding: Finding = {
      ...commonParts(context, loop),
      rule: 'query-per-row',
      title: 'A query for every row',
      sentence: `The same query was asked ${formatCount(loop.nodes.length)} times, one after another${differing(loop)}${feed}${origin}. It takes ${formatShare(loop.bookedNs / context.request.durationNs)} of this request; the longest took ${formatDuration(loop.slowestNs)}.`,
      remedy: 'Ask once for all rows: join it to the query before, or pass the keys as one list.',
      figures: {
        ...figuresOf(loop),
        fedBy: fed?.fingerprint ?? null,
        fedByRows: fed?.rows ?? null
      }
    };
    return withEdit(finding, mergedInto(loop, loop.medianNs));
  });

/** One write for each row: the same shape of loop, but it changes data. */
export const rowByRowWrites: FindingRule = (context) =>
  databaseLoops(context, true).map((loop) => {
    const finding: Finding = {
      ...commonParts(context, loop),
      rule: 'row-by-row-writes',
      title: 'Written row by row',
      sentence: `The same ${loop.verb} ran ${formatCount(loop.nodes.length)} times, one after another${loop.origin ? `, at ${loop.origin}` : ''}. It takes ${formatShare(loop.bookedNs / context.request.durationNs)} of this request.`,
      remedy: 'Write all rows with one statement, or at least in one transaction.',
      figures: figuresOf(loop)
    };
    return withEdit(finding, mergedInto(loop, loop.medianNs));
  });

/** True for a statement's verb that changes data. */
export const isWrite = (verb: string): boolean => WRITES.has(verb.toLowerCase());

function databaseLoops(context: RuleContext, writes: boolean): Loop[] {
  return context.loops.filter(
    (loop) =>
      loop.kind === 'database' &&
      isWrite(loop.verb) === writes &&
      (writes || loop.distinct === null || loop.distinct > MOSTLY_DIFFERENT * loop.nodes.length)
  );
}

function differing(loop: Loop): string {
  if (loop.distinct === null) return ' (whether its values differ was not recorded)';
  return loop.distinct === loop.nodes.length
    ? ', each time for another value'
    : `, for ${formatCount(loop.distinct)} different values`;
}

/** The figures of a loop. */
export function figuresOf(loop: Loop): Finding['figures'] {
  return {
    calls: loop.nodes.length,
    distinct: loop.distinct,
    totalNs: loop.totalNs,
    bookedNs: loop.bookedNs,
    fastestNs: loop.fastestNs,
    medianNs: loop.medianNs,
    slowestNs: loop.slowestNs
  };
}

/** What every loop finding says. */
export function commonParts(
  context: RuleContext,
  loop: Loop
): Pick<Finding, 'severity' | 'saving' | 'assumption' | 'costNs' | 'subject' | 'evidence'> {
  const { trace, request } = context;
  return {
    severity: severityOf(loop.bookedNs, request.durationNs),
    saving: mergeSaving(context, loop),
    assumption:
      'One call replaces them all and takes between one of them and all of them less a round trip each; every other gap stays.',
    costNs: loop.bookedNs,
    subject: loop.fingerprint,
    evidence: callEvidence(trace, loop, loop.nodes)
  };
}

/** The query that fed the loop: the last other query of this request that had ended when the loop began. */
function feederOf(context: RuleContext, loop: Loop): number | undefined {
  const { tree } = context.trace;
  const queries = queriesByEnd(context);
  const begin = tree.start[loop.nodes[0]];
  // Ends are whole nanoseconds.
  let at = firstAtLeast(queries.length, (i) => tree.end[queries[i]], begin + 1) - 1;
  while (at >= 0 && tree.nodes[queries[at]].span.call!.fingerprint === loop.fingerprint) at--;
  return at < 0 ? undefined : queries[at];
}

const queriesOf = new WeakMap<RuleContext, number[]>();

/** The request's queries by end; of those that end together the one that comes first in the request is the last. */
function queriesByEnd(context: RuleContext): number[] {
  let queries = queriesOf.get(context);
  if (!queries) {
    const { tree } = context.trace;
    queries = context.nodes
      .filter((node) => tree.nodes[node].span.call?.kind === 'database')
      .reverse()
      .sort((a, b) => tree.end[a] - tree.end[b]);
    queriesOf.set(context, queries);
  }
  return queries;
}
