import { NOT_AT_ALL, ELSEWHERE, KEEP_ANSWERS } from './remedies';
import { makesTheSameCall } from './over-many-words';
import { words } from '../text/words';
import { chattyLoops } from './chatty';
import { defineRule } from './define-rule';
import type { RuleContext } from './finding';
import { LIKE_CALLS } from './loops';

/** Very many like remote calls: the same shape as a query for every row, over HTTP or RPC. */
export const chattyRemote = defineRule({
  rule: 'chatty-remote',
  name: 'A remote call for every item',
  looksFor: 'Like HTTP or RPC calls that the request reaches by the same path of span names.',
  thresholds: [LIKE_CALLS],
  why: 'A round trip over the network for each item, while the called service is healthy: it is only asked too often.',
  doThis: [
    NOT_AT_ALL,
    'Request all items in one call, or run the calls in parallel if the other side can take it.',
    ELSEWHERE,
    KEEP_ANSWERS
  ],
  overMany: makesTheSameCall,
  spent: (subject) => words`calling ${[subject]}`,
  find: (context: RuleContext) =>
    chattyLoops(context, ['http', 'rpc'], {
      title: 'A remote call for every item',
      said: 'was called',
      inTurn:
        'Ask for all items in one call, or run the calls side by side where the other side can bear it.',
      together:
        'Ask for all items in one call: side by side the calls hide their round trips, but the other side still answers each.'
    })
});
