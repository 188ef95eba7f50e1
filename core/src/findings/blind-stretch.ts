import { formatDuration } from '../text/format';
import { spanIdsOf, worded, type FindingRule } from './finding';

/** Time inside a span that no child span and no sample explains: every stretch the ledger booked as unseen. */
export const blindStretch: FindingRule = (context) => {
  const { trace, request } = context;
  const { tree } = trace;
  return request.ownStretches
    .filter(({ account, node }) => account === 'unseen' && !tree.nodes[node].missing)
    .map(({ node, from, to }) => {
      const lengthNs = to - from;
      const { span } = tree.nodes[node];
      const whole = from === tree.start[node] && to === tree.end[node];
      return worded(
        {
          rule: 'blind-stretch',
          title: `A blind stretch of ${formatDuration(lengthNs)}`,
          remedy: 'Open a profile of this process for these milliseconds, or add spans inside.',
          figures: { lengthNs, share: lengthNs / request.durationNs },
          evidence: {
            traceId: tree.traceId,
            spanIds: spanIdsOf(trace, [node]),
            fromNs: from - tree.start[request.node],
            toNs: to - tree.start[request.node]
          },
          costNs: lengthNs,
          subject: span.name
        },
        request.durationNs,
        ({ time, share }) =>
          `Nothing was recorded ${whole ? 'inside' : 'for a part of'} ${span.name} for ${formatDuration(lengthNs)}, ${time === formatDuration(lengthNs) ? '' : `${time} of it `}${share} of this request. It may have computed or waited; the trace does not say.`
      );
    });
};
