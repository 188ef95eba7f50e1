import { formatCount } from '../text/format';
import {
  callEvidence,
  withEdit,
  worded,
  type CostInWords,
  type Finding,
  type Rule,
  type RuleContext
} from './finding';
import { mergedInto, mergeSaving, type Loop } from './loops';

/** What a rule adds to a loop to make it a finding. */
interface LoopWords {
  rule: Rule;
  title: string;
  remedy: string;
  figures?: Finding['figures'];
  sentence: (cost: CostInWords) => string;
}

/** A finding about a loop. */
export function loopFinding(context: RuleContext, loop: Loop, words: LoopWords): Finding {
  const { trace, request } = context;
  const { rule, title, remedy } = words;
  const finding = worded(
    {
      rule,
      title,
      remedy,
      figures: { ...figuresOf(loop), ...words.figures },
      saving: mergeSaving(context, loop),
      assumption:
        loop.atOnce > 1
          ? 'One call replaces them all and takes between the median and the slowest of them; every other gap stays. They run side by side, so it saves the request little more than their waits for each other.'
          : 'One call replaces them all and takes between one of them and all of them less a round trip each; every other gap stays.',
      costNs: loop.bookedNs,
      subject: loop.fingerprint,
      evidence: callEvidence(trace, loop, loop.nodes)
    },
    request.durationNs,
    words.sentence
  );
  return withEdit(finding, mergedInto(loop, loop.medianNs));
}

/** `one after another`, `two at a time`, `side by side, up to 10 at once`. */
export function howTheyRan({ atOnce, nodes }: Loop): string {
  if (atOnce === 1) return 'one after another';
  if (atOnce >= nodes.length) return 'all side by side';
  return atOnce === 2 ? 'two at a time' : `side by side, up to ${formatCount(atOnce)} at once`;
}

function figuresOf(loop: Loop): Finding['figures'] {
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
