import { costs } from './over-many-words';
import { words } from '../text/words';
import { defineRule } from './define-rule';
import { greatestOf } from '../stats/extremes';
import { retryChains } from '../calls/retries';
import { formatCount } from '../text/format';
import { callEvidence, type Found, type RuleContext } from './finding';
import { bookedBelow } from './loops';

/** One retry is prudent; from the second on, the request pays for a fault elsewhere. Common practice. */
export const STORM_MIN_ATTEMPTS = 3;

/** One call tried again and again after it failed. */
export const retryStorm = defineRule({
  rule: 'retry-storm',
  name: 'Repeated retries',
  looksFor: 'The same call repeated after it failed.',
  thresholds: [
    {
      name: 'attempts',
      value: `${STORM_MIN_ATTEMPTS} or more`,
      why: 'One retry is prudent; from the second on, the request pays for a fault elsewhere. Common practice.'
    }
  ],
  why: 'Each attempt makes the request longer, and the failing side busier.',
  doThis: ['Find out why it fails.', 'Retry less often, with increasing delays.'],
  overMany: (facts) => [
    ...words`${[facts.endpoint]} retries a failing call.`,
    ...costs(facts, 'The failed attempts cost')
  ],
  find: (context: RuleContext): Found[] => {
    const { trace, request, groups } = context;
    const { tree } = trace;
    return groups.flatMap((group) => {
      const chains = retryChains(tree, group.nodes).filter(({ nodes }) => nodes.length >= STORM_MIN_ATTEMPTS);
      if (chains.length === 0) return [];
      const nodes = chains.flatMap((chain) => chain.nodes);
      const spare = chains.flatMap((chain) => chain.nodes.slice(0, -1));
      const costNs = bookedBelow(context, spare);
      const most = greatestOf(chains.map((chain) => chain.nodes.length));
      const gaveUp = chains.filter((chain) => chain.gaveUp).length;
      const edit = new Map(spare.map((node) => [node, 0]));
      const without = context.replay.durationNs(edit);
      const finding: Found = {
        title: 'Repeated retries',
        remedy:
          'Find out why it fails first. Then retry less often, with increasing delays, and stop calling a service that is down.',
        figures: { attempts: most, chains: chains.length, gaveUp, bookedNs: costNs },
        evidence: callEvidence(trace, group, nodes),
        saving: { lowNs: 0, highNs: Math.max(0, request.durationNs - without) },
        assumption: 'At best, only the last attempt remains; pauses between attempts stay.',
        costNs,
        subject: group.fingerprint,
        say: ({ share }) =>
          `${group.fingerprint} was tried ${formatCount(most)} times in a row${chains.length > 1 ? `, ${formatCount(chains.length)} times over` : ''}, each after a failure${gaveUp > 0 ? '; the last failed too' : '; the last succeeded'}${group.origin ? `. It was called at ${group.origin}` : ''}. The failed attempts take ${share} of this request.`
      };
      return [{ ...finding, edit }];
    });
  }
});
