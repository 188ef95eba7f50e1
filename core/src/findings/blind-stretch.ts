import { words } from '../text/words';
import { UNSEEN_MIN_NS, UNSEEN_MIN_SHARE } from '../trace/requests';
import { defineRule } from './define-rule';
import { formatDuration, formatShare } from '../text/format';
import { spanIdsOf, type Found, type RuleContext } from './finding';

/** Time inside a span that no child span and no sample explains: every stretch the ledger booked as unseen. */
export const blindStretch = defineRule({
  rule: 'blind-stretch',
  name: 'Blind stretch',
  looksFor: 'Time inside a span that no child span, no event and no sample explains.',
  thresholds: [
    {
      name: 'length',
      value: `more than ${formatDuration(UNSEEN_MIN_NS)} and ${formatShare(UNSEEN_MIN_SHARE)} of the request`,
      why: 'Shorter ones are ordinary own code.'
    }
  ],
  why: 'It may have computed or waited; the trace does not say.',
  doThis: ['Open a profile of the process for this time, or record one.', 'Add spans inside.'],
  manyTitle: 'Blind stretch',
  overMany: (facts) =>
    words`Nothing was recorded inside ${[facts.subject]} of ${facts.endpoint}. It holds ${[formatShare(facts.share)]} of all the time spent here.`,
  seeAlso: 'profile',
  find: (context: RuleContext): Found[] => {
    const { trace, request } = context;
    const { tree } = trace;
    return request.ownStretches
      .filter(({ account, node }) => account === 'unseen' && !tree.nodes[node].missing)
      .map(({ node, from, to }) => {
        const lengthNs = to - from;
        const { span } = tree.nodes[node];
        const whole = from === tree.start[node] && to === tree.end[node];
        return {
          title: `Blind stretch of ${formatDuration(lengthNs)}`,
          remedy: 'Open a profile of this process for these milliseconds, or add spans inside.',
          figures: { lengthNs, share: lengthNs / request.durationNs },
          evidence: {
            traceId: tree.traceId,
            spanIds: spanIdsOf(trace, [node]),
            fromNs: from - tree.start[request.node],
            toNs: to - tree.start[request.node]
          },
          costNs: lengthNs,
          subject: span.name,
          say: ({ time, share }) =>
            `Nothing was recorded ${whole ? 'inside' : 'for a part of'} ${span.name} for ${formatDuration(lengthNs)}, ${time === formatDuration(lengthNs) ? '' : `${time} of it `}${share} of this request. It may have computed or waited; the trace does not say.`
        };
      });
  }
});
