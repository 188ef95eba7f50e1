import { NOT_AT_ALL } from './remedies';
import { makesTheSameCall } from './over-many-words';
import { words } from '../text/words';
import { chattyLoops } from './chatty';
import { defineRule } from './define-rule';
import type { RuleContext } from './finding';
import { LIKE_CALLS } from './loops';

/** Very many like calls of a cache. */
export const chattyCache = defineRule({
  rule: 'chatty-cache',
  name: 'One cache call per item',
  looksFor: 'The same loop with cache commands.',
  thresholds: [LIKE_CALLS],
  why: 'Each command is fast, and each is a round trip.',
  doThis: [
    NOT_AT_ALL,
    'Send one command for many keys, or use a pipeline.',
    'Keep what the request already read in memory until it ends.'
  ],
  overMany: makesTheSameCall,
  spent: () => words`reading the cache`,
  find: (context: RuleContext) =>
    chattyLoops(context, ['cache'], {
      title: 'One cache call per item',
      said: 'was sent',
      inTurn: 'Send the commands together: one command for many keys (MGET, MSET), or a pipeline.',
      together: 'Send one command for many keys (MGET, MSET) instead of many at once.'
    })
});
