import { ELSEWHERE } from './remedies';
import { makesTheSameCall } from './over-many-words';
import { words } from '../text/words';
import { chattyLoops } from './chatty';
import { defineRule } from './define-rule';
import type { RuleContext } from './finding';
import { LIKE_CALLS } from './loops';

/** Very many like messages, sent one by one. */
export const chattyMessaging = defineRule({
  rule: 'chatty-messaging',
  name: 'One message per item',
  looksFor: 'The same loop with messages that are sent.',
  thresholds: [LIKE_CALLS],
  why: 'Each item costs a send, and often a confirmation.',
  doThis: ['Send one batch and wait once.', ELSEWHERE],
  overMany: makesTheSameCall,
  spent: (subject) => words`sending to ${[subject]}`,
  find: (context: RuleContext) =>
    chattyLoops(context, ['messaging'], {
      title: 'One message per item',
      said: 'ran',
      inTurn:
        'Send the messages as a batch and wait once for all confirmations, or put the items into one message.',
      together: 'Send the messages as a batch, or put the items into one message.'
    })
});
