import type { CallKind } from '../calls/call';
import { formatCount } from '../text/format';
import { atOrigin, type Found, type RuleContext } from './finding';
import { howTheyRan, loopFinding } from './loop-finding';
import { isSessionStatement } from './statement-shape';

interface Chatty {
  title: string;
  /** What was done with the calls. */
  said: string;
  /** What to do about calls one after another, and side by side. */
  inTurn: string;
  together: string;
}

/** Loops over calls of some kinds, whatever they call. */
export const chattyLoops = (context: RuleContext, kinds: readonly CallKind[], words: Chatty): Found[] =>
  context.loops
    .filter((loop) => kinds.includes(loop.kind) && !(loop.kind === 'cache' && isSessionStatement(loop)))
    .map((loop) =>
      loopFinding(context, loop, {
        title: words.title,
        remedy: loop.atOnce > 1 ? words.together : words.inTurn,
        say: ({ share }) =>
          `${loop.fingerprint} ${words.said} ${formatCount(loop.nodes.length)} times, ${howTheyRan(loop)}${atOrigin(loop.origin)}. With what it calls it takes ${share} of this request.`
      })
    );
