import { NOT_AT_ALL, ELSEWHERE, KEEP_ANSWERS } from './remedies';
import { costs } from './over-many-words';
import { words } from '../text/words';
import { defineRule } from './define-rule';
import { formatDuration, formatShare } from '../text/format';
import { callEvidence, type Found, type RuleContext } from './finding';
import { isLocking } from './statement-shape';

/** From this share on one call alone decides how long the request takes. */
export const SLOW_CALL_SHARE = 0.6;
/** A call of a loop so many times as long as the median of the loop. */
const SLOW_IN_LOOP = 3;
/** A request this short is not slow, whatever fills it. */
export const SLOW_CALL_MIN_NS = 10e6;

/**
 * One call at least 60 % of the request, by its own part of the critical path: time that the called side booked
 * itself is that side's, so a gateway is not blamed for what it passes on.
 */
export const oneSlowCall = defineRule({
  rule: 'one-slow-call',
  name: 'One slow call',
  looksFor: 'One call whose own part of the critical path decides how long the request takes.',
  thresholds: [
    {
      name: 'share',
      value: `${formatShare(SLOW_CALL_SHARE)} of the request, and at least ${formatDuration(SLOW_CALL_MIN_NS)}`,
      why: 'Above that, nothing else can make the request much faster. Shorter requests are not slow.'
    }
  ],
  why: 'The request waits for it.',
  doThis: [
    NOT_AT_ALL,
    ELSEWHERE,
    KEEP_ANSWERS,
    'Read its query plan, or look at the called service: a missing index, too many rows, a wait behind another statement.'
  ],
  overMany: (facts) => [...words`One call decides how long ${[facts.endpoint]} takes.`, ...costs(facts)],
  find: (context: RuleContext): Found[] => {
    const { trace, request, nodes, loops } = context;
    const { tree } = trace;
    const findings: Found[] = [];
    for (const node of nodes) {
      const { call, span } = tree.nodes[node];
      const bookedNs = request.ownBooked.get(node) ?? 0;
      if (
        !call ||
        isLocking(call) ||
        bookedNs < SLOW_CALL_SHARE * request.durationNs ||
        bookedNs < SLOW_CALL_MIN_NS
      )
        continue;
      const tookNs = tree.end[node] - tree.start[node];
      // Of calls side by side one always ends last: it is slow only beside the others.
      const loop = loops.find((one) => one.nodes.includes(node));
      if (loop && tookNs < SLOW_IN_LOOP * loop.medianNs) continue;
      const finding: Found = {
        title: 'One slow call',
        remedy:
          call.kind === 'database'
            ? 'Look at its query plan: a missing index, too many rows, or a wait behind another statement.'
            : 'Look at the called side, or do without its answer here.',
        figures: { calls: 1, tookNs, bookedNs, share: bookedNs / request.durationNs },
        evidence: callEvidence(trace, call, [node]),
        saving: {
          lowNs: 0,
          highNs: Math.max(0, request.durationNs - context.replay.durationNs(new Map([[node, 0]])))
        },
        assumption: 'At best, the call goes away; this trace does not show how much faster it could be.',
        costNs: bookedNs,
        subject: call.fingerprint,
        say: ({ time, share }) =>
          `One call, ${call.fingerprint || span.name}, took ${formatDuration(tookNs)}; ${bookedNs === tookNs ? '' : `${time} of that is its own, `}${share} of this request${call.origin ? `. It was made at ${call.origin}` : ''}.`
      };
      findings.push({ ...finding, edit: new Map([[node, 0]]) });
    }
    return findings;
  }
});
