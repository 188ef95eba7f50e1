import { NOT_AT_ALL, KEEP_ANSWERS } from './remedies';
import { costs } from './over-many-words';
import { words } from '../text/words';
import { defineRule } from './define-rule';
import { greatestOf, leastOf } from '../stats/extremes';
import type { CallGroup } from '../calls/groups';
import { groupBy } from '../group-by';
import { formatCount, formatShare } from '../text/format';
import { isFailed } from '../trace/requests';
import { numberOf } from '../trace/span';
import type { TraceTree } from '../trace/tree';
import { atOrigin, callEvidence, type RuleContext, type Found } from './finding';
import { bookedBelow } from './loops';
import { answersAnew, isLocking, isWrite, tablesOf } from './statement-shape';

/** Two may be a check and a read; from three identical calls on an answer was asked for that was already there. Common practice. */
export const SAME_MIN_CALLS = 3;
/** Repeats that cost less than this share of the request are not worth a sentence. */
export const SAME_MIN_SHARE = 0.01;
/** Only reads can be answered from memory. */
const READS = new Set([
  'select',
  'with',
  'values',
  'find',
  'findone',
  'aggregate',
  'count',
  'distinct',
  'get',
  'mget',
  'hget',
  'hgetall',
  'GET',
  'HEAD'
]);
/** Who asks again only after such a wait, and does nothing else meanwhile, polls. Common practice. */
const POLL_MIN_GAP_NS = 20e6;
const POLL_GAPS = 3;

/** The same call with identical literals several times in one request, with nothing that could have changed the answer: keep the first one. */
export const sameCallAgain = defineRule({
  rule: 'same-call-again',
  name: 'Same call repeated',
  looksFor:
    'Identical reads, with identical values, several times in one request, with no write in between that could have changed the answer. Failures, sequences, locking reads and polling are left out.',
  thresholds: [
    {
      name: 'identical calls',
      value: `${SAME_MIN_CALLS} or more`,
      why: 'Two may be a check and a read. Common practice.'
    },
    {
      name: 'cost',
      value: `${formatShare(SAME_MIN_SHARE)} of the request`,
      why: 'Less is not worth reporting.'
    }
  ],
  why: 'The answer was already there.',
  doThis: [NOT_AT_ALL, 'Keep the first answer for the rest of the request.', KEEP_ANSWERS],
  overMany: (facts) => [
    ...words`${[facts.endpoint]} asks again for what it already has.`,
    ...costs(facts, 'The repeats cost')
  ],
  find: (context: RuleContext): Found[] => {
    const { trace, request, groups } = context;
    const findings: Found[] = [];
    for (const group of groups) {
      if (!READS.has(group.verb) || isWrite(group) || answersAnew(group) || isLocking(group)) continue;
      if (group.count < SAME_MIN_CALLS) continue;
      const repeated = repeats(context, group);
      const calls = repeated.reduce((sum, nodes) => sum + nodes.length, 0);
      if (repeated.length === 0) continue;
      const avoidable = repeated.flatMap((nodes) => nodes.slice(1));
      const costNs = bookedBelow(context, avoidable);
      if (costNs < SAME_MIN_SHARE * request.durationNs) continue;
      const finding: Found = {
        title: 'Same call repeated',
        remedy: 'Keep the first answer for the rest of the request.',
        figures: { calls, distinct: repeated.length, repeats: avoidable.length, bookedNs: costNs },
        evidence: callEvidence(trace, group, avoidable),
        saving: dropSaving(context, avoidable, group.fastestNs),
        assumption: 'Every repeat is answered from memory at no cost; all other gaps stay.',
        costNs,
        subject: group.fingerprint,
        say: ({ share }) =>
          `${group.fingerprint} was called ${formatCount(calls)} times with ${repeated.length === 1 ? 'the same values' : `only ${formatCount(repeated.length)} different values`}${atOrigin(group.origin)}. The repeats take ${share} of this request.`
      };
      findings.push({ ...finding, edit: new Map(avoidable.map((node) => [node, 0])) });
    }
    return findings;
  }
});

/** Calls of a group with identical literals, three or more each, that succeeded and between which nothing changed what they ask for. */
function repeats(context: RuleContext, group: CallGroup): number[][] {
  const { tree } = context.trace;
  const known = group.nodes.filter(
    (node) => tree.nodes[node].call!.literals !== null && !isFailed(tree.nodes[node].span)
  );
  const same = [...groupBy(known, (node) => tree.nodes[node].call!.literals).values()].filter(
    (nodes) => nodes.length >= SAME_MIN_CALLS
  );
  if (same.length === 0) return [];
  const changes = changesOf(context, group);
  return same
    .flatMap((nodes) => runsBetween(tree, nodes, changes))
    .filter(
      (nodes) => nodes.length >= SAME_MIN_CALLS && !changedAnswer(tree, nodes) && !polls(context, nodes)
    );
}

/** When calls ended that may have changed what a group reads, ascending. */
function changesOf({ trace, nodes }: RuleContext, group: CallGroup): number[] {
  const { tree } = trace;
  const tables = tablesOf(group);
  const host = /^\S+ ([^/]*)/.exec(group.fingerprint)?.[1];
  const affects = (node: number): boolean => {
    const { call } = tree.nodes[node];
    if (call?.kind !== group.kind) return false;
    if (call.kind === 'http')
      return !/^(?:GET|HEAD|OPTIONS)$/.test(call.verb) && /^\S+ ([^/]*)/.exec(call.fingerprint)?.[1] === host;
    if (call.kind === 'cache') return !READS.has(call.verb);
    if (!isWrite(call)) return false;
    const written = tablesOf(call);
    // Where one of the two names no table, nothing is known.
    return written.size === 0 || tables.size === 0 || [...written].some((table) => tables.has(table));
  };
  return nodes
    .filter(affects)
    .map((node) => tree.end[node])
    .sort((a, b) => a - b);
}

/** Parts of a row of calls, cut wherever something was changed in between. */
function runsBetween(tree: TraceTree, nodes: readonly number[], changes: readonly number[]): number[][] {
  const sorted = nodes.toSorted((a, b) => tree.start[a] - tree.start[b]);
  if (changes.length === 0) return [sorted];
  const run = (node: number): number => changes.filter((at) => at <= tree.start[node]).length;
  return [...groupBy(sorted, run).values()];
}

/** True where the answers show that they differ: other rows, another status, another size. */
function changedAnswer(tree: TraceTree, nodes: readonly number[]): boolean {
  const answers = new Set(
    nodes.map((node) => {
      const { call, span } = tree.nodes[node];
      const status = numberOf(span.attributes, 'http.response.status_code', 'http.status_code');
      const size = numberOf(span.attributes, 'http.response.body.size', 'http.response_content_length');
      return `${call!.rows} ${status} ${size}`;
    })
  );
  return answers.size > 1;
}

/** True for calls asked again after waits of about the same length, in which the request calls nothing else. */
function polls({ trace: { tree }, groups }: RuleContext, nodes: readonly number[]): boolean {
  const gaps = nodes.slice(1).map((node, i) => tree.start[node] - tree.end[nodes[i]]);
  const shortest = leastOf(gaps);
  if (shortest < POLL_MIN_GAP_NS || greatestOf(gaps) > POLL_GAPS * shortest) return false;
  const others = groups.flatMap((group) => group.nodes).filter((node) => !nodes.includes(node));
  return !others.some((node) =>
    nodes
      .slice(1)
      .some((next, i) => tree.start[node] >= tree.end[nodes[i]] && tree.end[node] <= tree.start[next])
  );
}

/** At the least one fastest call for each repeat, at the most the repeats as long as they were. */
function dropSaving(
  { trace, request, replay }: RuleContext,
  repeated: readonly number[],
  fastestNs: number
): { lowNs: number; highNs: number } {
  const { tree } = trace;
  const shorten = (by: (node: number) => number): number => {
    const durations = new Map(
      repeated.map((node) => [node, Math.max(0, tree.end[node] - tree.start[node] - by(node))])
    );
    return Math.max(0, request.durationNs - replay.durationNs(durations));
  };
  return { lowNs: shorten(() => fastestNs), highNs: shorten((node) => tree.end[node] - tree.start[node]) };
}
