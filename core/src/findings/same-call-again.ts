import { groupBy } from '../group-by';
import { formatCount, formatShare } from '../text/format';
import {
  callEvidence,
  severityOf,
  withEdit,
  type Finding,
  type FindingRule,
  type RuleContext
} from './finding';
import { bookedBelow } from './loops';

/** Two may be a check and a read; from three identical calls on an answer was asked for that was already there. Common practice. */
export const SAME_MIN_CALLS = 3;
/** Repeats that cost less than this share of the request are not worth a sentence. */
export const SAME_MIN_SHARE = 0.01;
/** Only reads can be answered from memory. */
const READS = new Set(['select', 'with', 'show', 'values', 'get', 'mget', 'hget', 'hgetall', 'GET', 'HEAD']);

/** The same call with identical literals several times in one request: keep the first answer. */
export const sameCallAgain: FindingRule = (context) => {
  const { trace, request, groups } = context;
  const findings: Finding[] = [];
  for (const group of groups) {
    if (!READS.has(group.verb)) continue;
    const repeated = repeats(context, group.nodes);
    const calls = repeated.reduce((sum, nodes) => sum + nodes.length, 0);
    if (repeated.length === 0) continue;
    const avoidable = repeated.flatMap((nodes) => nodes.slice(1));
    const costNs = bookedBelow(context, avoidable);
    if (costNs < SAME_MIN_SHARE * request.durationNs) continue;
    const finding: Finding = {
      rule: 'same-call-again',
      title: 'The same call again',
      severity: severityOf(costNs, request.durationNs),
      sentence: `${group.fingerprint} was called ${formatCount(calls)} times with ${repeated.length === 1 ? 'the same values' : `only ${formatCount(repeated.length)} different values`}${group.origin ? `, at ${group.origin}` : ''}. The repeats take ${formatShare(costNs / request.durationNs)} of this request.`,
      remedy: 'Keep the first answer for the rest of the request.',
      figures: { calls, distinct: repeated.length, repeats: avoidable.length, bookedNs: costNs },
      evidence: callEvidence(trace, group, avoidable),
      saving: dropSaving(context, avoidable, group.fastestNs),
      assumption: 'Every repeat is answered from memory at no cost; every other gap stays.',
      costNs,
      subject: group.fingerprint
    };
    findings.push(withEdit(finding, new Map(avoidable.map((node) => [node, 0]))));
  }
  return findings;
};

/** Calls of this request with identical literals, three or more each. */
function repeats({ trace }: RuleContext, nodes: readonly number[]): number[][] {
  const literalsOf = (node: number): number | null => trace.tree.nodes[node].span.call!.literals;
  const known = nodes.filter((node) => literalsOf(node) !== null);
  return [...groupBy(known, literalsOf).values()].filter((same) => same.length >= SAME_MIN_CALLS);
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
