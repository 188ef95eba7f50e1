import { costs } from './over-many-words';
import { words } from '../text/words';
import { defineRule } from './define-rule';
import { ranIntoLimit, ROUND_LIMITS_S, ROUND_TOLERANCE, roundLimitOf } from '../calls/round-limit';
import { groupBy } from '../group-by';
import { formatDuration, formatShare, plural } from '../text/format';
import { callEvidence, type RuleContext, type Found } from './finding';
import { bookedBelow } from './loops';

/** So many calls that all end at one limit, though they succeed, are no chance. Common practice. */
export const ROUND_MIN_CALLS = 3;

/** Calls that ended just after a round limit, and failed; or very many of a group that did, though the called side did not work that long. */
export const roundTimeout = defineRule({
  rule: 'round-timeout',
  name: 'Likely timeout',
  looksFor: `A call that fails within ${formatShare(ROUND_TOLERANCE)} after ${ROUND_LIMITS_S.join(', ')} seconds; or ${ROUND_MIN_CALLS} or more calls of a group that end there, although the called side did not work that long.`,
  thresholds: [
    {
      name: 'after the limit',
      value: formatShare(ROUND_TOLERANCE),
      why: 'Timeouts are set by hand, in round seconds; a call that runs into one ends just after it. Common practice.'
    }
  ],
  why: 'The time is spent waiting for a timeout, not working.',
  doThis: [
    'Find the timeout of that length on either side, and why no answer came.',
    'Set a shorter timeout, and decide what to answer when it is reached.'
  ],
  overMany: (facts) => [
    ...words`Calls of ${[facts.endpoint]} run into a timeout.`,
    ...costs(facts, 'The wait costs')
  ],
  find: (context: RuleContext): Found[] => {
    const { trace, groups } = context;
    const { tree } = trace;
    return groups.flatMap((group) => {
      const limitOf = (node: number): number | null => roundLimitOf(tree.end[node] - tree.start[node]);
      return [...groupBy(group.nodes, limitOf)].flatMap(([limit, atLimit]) => {
        if (limit === null) return [];
        const unexplained = atLimit.filter((node) => !workedAsLong(context, node));
        const failed = unexplained.filter((node) => ranIntoLimit(tree, node));
        const many = unexplained.length >= ROUND_MIN_CALLS && unexplained.length * 2 >= group.count;
        const nodes = failed.length > 0 ? failed : many ? unexplained : [];
        if (nodes.length === 0) return [];
        const costNs = bookedBelow(context, nodes);
        const how = failed.length > 0 ? 'failed' : 'ended';
        return {
          title: `Likely timeout of ${formatDuration(limit)}`,
          remedy:
            'Look for a timeout of that length on either side, and find out why no answer came. A shorter timeout only fails sooner.',
          figures: { calls: nodes.length, failed: failed.length, limitNs: limit, bookedNs: costNs },
          evidence: callEvidence(trace, group, nodes),
          costNs,
          subject: `${group.fingerprint} at ${formatDuration(limit)}`,
          say: ({ share }) =>
            `${plural(nodes.length, 'call')} of ${group.fingerprint} ${how} just after ${formatDuration(limit)}, a typical timeout${group.origin ? `; made at ${group.origin}` : ''}. It most likely ran out. The wait takes ${share} of this request.`
        };
      });
    });
  }
});

/** The called side may have worked so much shorter than the call lasts: the rest is the way there and back. */
const ON_THE_WAY = 0.1;

/** True where the called side was traced, worked for nearly as long as the call lasted, and answered it: no limit ran out. */
function workedAsLong({ trace: { tree } }: RuleContext, node: number): boolean {
  const took = tree.end[node] - tree.start[node];
  return tree.children[node].some(
    (child) =>
      tree.nodes[child].span.resource.key !== tree.nodes[node].span.resource.key &&
      tree.end[child] <= tree.end[node] &&
      tree.end[child] - tree.start[child] >= (1 - ON_THE_WAY) * took
  );
}
