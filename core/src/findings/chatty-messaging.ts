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
  name: 'A message for every item',
  looksFor: 'The same loop, of messages sent.',
  thresholds: [LIKE_CALLS],
  why: 'Sending, and often a confirmation, is paid for each item.',
  doThis: ['Send one batch and wait once.', ELSEWHERE],
  overMany: makesTheSameCall,
  spent: (subject) => words`sending to ${[subject]}`,
  find: (context: RuleContext) =>
    chattyLoops(context, ['messaging'], {
      title: 'A message for every item',
      said: 'ran',
      inTurn:
        'Send the messages as a batch and wait once for all confirmations, or put the items into one message.',
      together: 'Send the messages as a batch, or put the items into one message.'
    })
});
