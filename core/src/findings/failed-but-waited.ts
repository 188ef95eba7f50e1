import { costs } from './over-many-words';
import { words } from '../text/words';
import { formatDuration, formatShare } from '../text/format';
import { defineRule } from './define-rule';
import { retryChains } from '../calls/retries';
import { isFailed } from '../trace/requests';
import { callEvidence, type Found, type RuleContext } from './finding';
import { bookedBelow } from './loops';
import { STORM_MIN_ATTEMPTS } from './retry-storm';

/** A failure that cost less than this share of the request did not make it slow. */
export const FAILED_MIN_SHARE = 0.1;
/** Nor one shorter than this. */
export const FAILED_MIN_NS = 50e6;

/** Calls the request waited for that then failed: time spent for nothing. Long retry chains are recognised by `retry-storm`. */
export const failedButWaited = defineRule({
  rule: 'failed-but-waited',
  name: 'Waited for a failing call',
  looksFor: 'Calls the request waited for that then failed.',
  thresholds: [
    {
      name: 'cost',
      value: `at least ${formatDuration(FAILED_MIN_NS)} and ${formatShare(FAILED_MIN_SHARE)} of the request`,
      why: 'Less than that does not make it slow.'
    }
  ],
  why: 'That time is wasted.',
  doThis: [
    'Find out why it fails, and make it fail sooner.',
    'Leave the call out while the other side is down.'
  ],
  overMany: (facts) => [...words`${[facts.endpoint]} waits for a call that then fails.`, ...costs(facts)],
  find: (context: RuleContext): Found[] => {
    const { trace, request, groups } = context;
    const { tree } = trace;
    return groups.flatMap((group) => {
      const storms = new Set(
        retryChains(tree, group.nodes)
          .filter(({ nodes }) => nodes.length >= STORM_MIN_ATTEMPTS)
          .flatMap(({ nodes }) => nodes)
      );
      const nodes = group.nodes.filter((node) => isFailed(tree.nodes[node].span) && !storms.has(node));
      if (nodes.length === 0) return [];
      const costNs = bookedBelow(context, nodes);
      if (costNs < FAILED_MIN_NS || costNs < FAILED_MIN_SHARE * request.durationNs) return [];
      const why = tree.nodes[nodes[0]].span.statusMessage;
      const edit = new Map(nodes.map((node) => [node, 0]));
      const outcome = request.failed ? 'failed too' : 'did not fail';
      const finding: Found = {
        title: 'Waited for a failing call',
        remedy: request.failed
          ? 'Fail sooner: check beforehand, or give the call a shorter limit.'
          : 'The request can do without this answer: give the call a short limit, or leave it out while the other side is down.',
        figures: { calls: nodes.length, bookedNs: costNs, share: costNs / request.durationNs },
        evidence: callEvidence(trace, group, nodes),
        saving: { lowNs: 0, highNs: Math.max(0, request.durationNs - context.replay.durationNs(edit)) },
        assumption: 'At best, the call fails at once.',
        costNs,
        subject: group.fingerprint,
        say: ({ time, share }) =>
          `The request waited ${time}, ${share} of its time, for ${group.fingerprint}, which failed${why ? ` (${why})` : ''}. The work that waited ${outcome}.`
      };
      return [{ ...finding, edit }];
    });
  }
});
