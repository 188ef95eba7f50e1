import { formatCount, formatShare } from '../text/format';
import { withEdit, type Finding, type FindingRule } from './finding';
import { mergedInto } from './loops';
import { commonParts, figuresOf } from './query-per-row';

/** Very many like remote calls in a row: the same shape as a query per row, over HTTP or RPC. */
export const chattyRemote: FindingRule = (context) =>
  context.loops
    .filter((loop) => loop.kind === 'http' || loop.kind === 'rpc')
    .map((loop) => {
      const finding: Finding = {
        ...commonParts(context, loop),
        rule: 'chatty-remote',
        title: 'A remote call for every item',
        sentence: `${loop.fingerprint} was called ${formatCount(loop.nodes.length)} times, one after another${loop.origin ? `, at ${loop.origin}` : ''}. With what it calls it takes ${formatShare(loop.bookedNs / context.request.durationNs)} of this request.`,
        remedy:
          'Ask for all items in one call, or run the calls side by side where the other side can bear it.',
        figures: figuresOf(loop)
      };
      return withEdit(finding, mergedInto(loop, loop.medianNs));
    });
