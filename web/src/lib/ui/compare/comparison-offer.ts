import type { ComparedFigures } from '@tromix/core/compare/comparison';
import type { HowSure } from '@tromix/core/compare/how-sure';
import { headline, signedDuration } from '@tromix/core/compare/words';
import { ruleText } from '@tromix/core/findings/all-rules';
import { formatCount, formatDuration } from '@tromix/core/text/format';
import type { Offer } from '$lib/ui/cases/pins.svelte';
import { shortName } from './ledger-lines';

/** Parts of the difference that are pinned as figures. */
const MOST_PARTS = 5;

/** A comparison as something to be pinned; one that says "faster" is a proof. @param said what stands below its headline */
export function comparisonOffer(
  name: string,
  { figures, requests, ledgers, findings }: ComparedFigures,
  sure: HowSure | null,
  said: readonly string[]
): Offer {
  return {
    kind: 'comparison',
    role: sure?.verdict === 'faster' ? 'proof' : '',
    title: headline(name, figures, sure),
    sentence: said.join(' ') || headline(name, figures, sure),
    figures: [
      { name: 'A, median', value: formatDuration(figures.before.median) },
      { name: 'B, median', value: formatDuration(figures.after.median) },
      { name: 'A, requests', value: formatCount(requests.before) },
      { name: 'B, requests', value: formatCount(requests.after) },
      ...ledgers.part.lines
        .slice(0, MOST_PARTS)
        .map((line) => ({ name: shortName(line), value: signedDuration(line.differenceNs) })),
      ...findings
        .filter(({ state }) => state !== 'still there' && state !== 'not told')
        .map(({ rule, state }) => ({ name: ruleText(rule)?.name ?? rule, value: state }))
    ]
  };
}
