import { roundLimitOf } from '../calls/round-limit';
import { groupBy } from '../group-by';
import { formatDuration, formatShare, plural } from '../text/format';
import { callEvidence, severityOf, type FindingRule } from './finding';
import { bookedBelow } from './loops';

/** A call that ends within 3 % after a round limit most likely ran into it. */
export const roundTimeout: FindingRule = (context) => {
  const { trace, request, groups } = context;
  const { tree } = trace;
  return groups.flatMap((group) => {
    const limitOf = (node: number): number | null => roundLimitOf(tree.end[node] - tree.start[node]);
    return [...groupBy(group.nodes, limitOf)].flatMap(([limit, nodes]) => {
      if (limit === null) return [];
      const costNs = bookedBelow(context, nodes);
      return {
        rule: 'round-timeout' as const,
        title: `Ends at ${formatDuration(limit)}`,
        severity: severityOf(costNs, request.durationNs),
        sentence: `${plural(nodes.length, 'call')} of ${group.fingerprint} ended just after ${formatDuration(limit)}, a limit people set by hand${group.origin ? `; made at ${group.origin}` : ''}. Most likely it ran out. The wait takes ${formatShare(costNs / request.durationNs)} of this request.`,
        remedy:
          'Look for a timeout of that length on either side, and at why the answer did not come. A shorter limit only fails sooner.',
        figures: { calls: nodes.length, limitNs: limit, bookedNs: costNs },
        evidence: callEvidence(trace, group, nodes),
        costNs,
        subject: `${group.fingerprint} at ${formatDuration(limit)}`
      };
    });
  });
};
