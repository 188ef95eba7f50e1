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
  name: 'One remote call per item',
  looksFor: 'Similar HTTP or RPC calls that the request reaches by the same path of span names.',
  thresholds: [LIKE_CALLS],
  why: 'Each item costs a network round trip. The called service is healthy; it is just called too often.',
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
      title: 'One remote call per item',
      said: 'was called',
      inTurn: 'Request all items in one call, or run the calls in parallel if the other side can take it.',
      together:
        'Request all items in one call: in parallel the calls hide their round trips, but the other side still answers each one.'
    })
});
