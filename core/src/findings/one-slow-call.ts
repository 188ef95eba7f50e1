import { formatDuration, formatShare } from '../text/format';
import { callEvidence, severityOf, withEdit, type Finding, type FindingRule } from './finding';

/** From this share on one call alone decides how long the request takes. */
export const SLOW_CALL_SHARE = 0.6;
/** A request this short is not slow, whatever fills it. */
export const SLOW_CALL_MIN_NS = 10e6;

/**
 * One call at least 60 % of the request, by its own part of the critical path: time that the called side booked
 * itself is that side's, so a gateway is not blamed for what it passes on.
 */
export const oneSlowCall: FindingRule = (context) => {
  const { trace, request, nodes } = context;
  const { tree } = trace;
  const findings: Finding[] = [];
  for (const node of nodes) {
    const { call, name } = tree.nodes[node].span;
    const bookedNs = request.ownBooked.get(node) ?? 0;
    if (!call || bookedNs < SLOW_CALL_SHARE * request.durationNs || bookedNs < SLOW_CALL_MIN_NS) continue;
    const tookNs = tree.end[node] - tree.start[node];
    const finding: Finding = {
      rule: 'one-slow-call',
      title: 'One slow call',
      severity: severityOf(bookedNs, request.durationNs),
      sentence: `One call, ${call.fingerprint || name}, took ${formatDuration(tookNs)}, ${formatShare(bookedNs / request.durationNs)} of this request${call.origin ? `; it was made at ${call.origin}` : ''}.`,
      remedy:
        call.kind === 'database'
          ? 'Look at its plan: a missing index, too many rows, or a wait behind another statement.'
          : 'Look at the called side, or do without its answer here.',
      figures: { calls: 1, tookNs, bookedNs, share: bookedNs / request.durationNs },
      evidence: callEvidence(trace, call, [node]),
      saving: {
        lowNs: 0,
        highNs: Math.max(0, request.durationNs - context.replay.durationNs(new Map([[node, 0]])))
      },
      assumption:
        'At the most the call is gone altogether; how much faster it can be is not known from this trace.',
      costNs: bookedNs,
      subject: call.fingerprint
    };
    findings.push(withEdit(finding, new Map([[node, 0]])));
  }
  return findings;
};
