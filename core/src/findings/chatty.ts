import type { CallKind } from '../calls/call';
import { formatCount } from '../text/format';
import { atOrigin, type Finding, type FindingRule, type RuleContext } from './finding';
import { howTheyRan, loopFinding } from './loop-finding';
import { isSessionStatement } from './statement-shape';

/** Very many like remote calls: the same shape as a query per row, over HTTP or RPC. */
export const chattyRemote: FindingRule = (context) =>
  loopsOver(context, ['http', 'rpc'], {
    rule: 'chatty-remote',
    title: 'A remote call for every item',
    said: 'was called',
    inTurn: 'Ask for all items in one call, or run the calls side by side where the other side can bear it.',
    together:
      'Ask for all items in one call: side by side the calls hide their round trips, but the other side still answers each.'
  });

/** Very many like calls of a cache. */
export const chattyCache: FindingRule = (context) =>
  loopsOver(context, ['cache'], {
    rule: 'chatty-cache',
    title: 'A cache call for every item',
    said: 'was sent',
    inTurn: 'Send the commands together: one command for many keys (MGET, MSET), or a pipeline.',
    together: 'Send one command for many keys (MGET, MSET) in place of very many at once.'
  });

/** Very many like messages, sent one by one. */
export const chattyMessaging: FindingRule = (context) =>
  loopsOver(context, ['messaging'], {
    rule: 'chatty-messaging',
    title: 'A message for every item',
    said: 'ran',
    inTurn:
      'Send the messages as a batch and wait once for all confirmations, or put the items into one message.',
    together: 'Send the messages as a batch, or put the items into one message.'
  });

interface Chatty {
  rule: Finding['rule'];
  title: string;
  said: string;
  inTurn: string;
  together: string;
}

const loopsOver = (context: RuleContext, kinds: readonly CallKind[], words: Chatty): Finding[] =>
  context.loops
    .filter((loop) => kinds.includes(loop.kind) && !(loop.kind === 'cache' && isSessionStatement(loop)))
    .map((loop) =>
      loopFinding(context, loop, {
        rule: words.rule,
        title: words.title,
        remedy: loop.atOnce > 1 ? words.together : words.inTurn,
        sentence: ({ share }) =>
          `${loop.fingerprint} ${words.said} ${formatCount(loop.nodes.length)} times, ${howTheyRan(loop)}${atOrigin(loop.origin)}. With what it calls it takes ${share} of this request.`
      })
    );
