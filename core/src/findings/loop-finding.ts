import { formatCount } from '../text/format';
import { callEvidence, type Found, type RuleContext } from './finding';
import type { Loop } from './loop';
import { mergedInto, mergeSaving } from './loops';

/** What a rule says of a loop to make it a finding. */
type LoopWords = Pick<Found, 'title' | 'remedy' | 'say'> & { figures?: Found['figures'] };

/** A finding about a loop. */
export const loopFinding = (
  context: RuleContext,
  loop: Loop,
  { title, remedy, figures, say }: LoopWords
): Found => ({
  title,
  remedy,
  figures: { ...figuresOf(loop), ...figures },
  saving: mergeSaving(context, loop),
  assumption:
    loop.atOnce > 1
      ? 'One call replaces them all and takes between the median and the slowest of them; every other gap stays. They run side by side, so it saves the request little more than their waits for each other.'
      : 'One call replaces them all and takes between one of them and all of them less a round trip each; every other gap stays.',
  edit: mergedInto(loop, loop.medianNs),
  costNs: loop.bookedNs,
  subject: loop.fingerprint,
  evidence: callEvidence(context.trace, loop, loop.nodes),
  say
});

/** `one after another`, `two at a time`, `side by side, up to 10 at once`. */
export function howTheyRan({ atOnce, nodes }: Loop): string {
  if (atOnce === 1) return 'one after another';
  if (atOnce >= nodes.length) return 'all side by side';
  return atOnce === 2 ? 'two at a time' : `side by side, up to ${formatCount(atOnce)} at once`;
}

function figuresOf(loop: Loop): Found['figures'] {
  return {
    calls: loop.nodes.length,
    atOnce: loop.atOnce,
    distinct: loop.distinct,
    totalNs: loop.totalNs,
    bookedNs: loop.bookedNs,
    fastestNs: loop.fastestNs,
    medianNs: loop.medianNs,
    slowestNs: loop.slowestNs
  };
}
