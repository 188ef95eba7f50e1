import { ELSEWHERE } from './remedies';
import { makesTheSameCall } from './over-many-words';
import { words } from '../text/words';
import { formatCount } from '../text/format';
import { defineRule } from './define-rule';
import { atOrigin, type Found, type RuleContext } from './finding';
import { howTheyRan, loopFinding } from './loop-finding';
import { LIKE_CALLS } from './loops';
import { isWrite } from './statement-shape';

/** One write for each row: the same shape of loop as a query for every row, but it changes data. */
export const rowByRowWrites = defineRule({
  rule: 'row-by-row-writes',
  name: 'Row-by-row writes',
  looksFor: 'The same loop with statements that change data.',
  thresholds: [LIKE_CALLS],
  why: 'Every statement costs a round trip, and outside a transaction a wait for the disk as well.',
  doThis: [
    'Write all rows with one statement, or at least in one transaction.',
    'Check whether each write is needed: skip rows that did not change.',
    ELSEWHERE
  ],
  overMany: makesTheSameCall,
  spent: () => words`writing to the database`,
  find: (context: RuleContext): Found[] =>
    context.loops
      .filter((loop) => loop.kind === 'database' && isWrite(loop))
      .map((loop) =>
        loopFinding(context, loop, {
          title: 'Row-by-row writes',
          remedy: 'Write all rows with one statement, or at least in one transaction.',
          say: ({ share }) =>
            `The same ${loop.verb} ran ${formatCount(loop.nodes.length)} times, ${howTheyRan(loop)}${atOrigin(loop.origin)}. It takes ${share} of this request.`
        })
      )
});
