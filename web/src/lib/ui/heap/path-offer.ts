import { formatBytes } from '@tromix/core/text/format';
import type { Offer } from '$lib/ui/cases/pins.svelte';
import type { RootPathSteps } from './heap-client';

/** The path from a root to an object as something to be pinned: which field of what keeps it. @param about the object, in words */
export function pathOffer({ steps, leftOut }: RootPathSteps, about: string): Offer {
  const own = steps.filter(({ own }) => own).at(-1);
  const last = steps.at(-1);
  return {
    kind: 'path',
    title: about,
    sentence:
      steps.length === 0
        ? `Nothing holds ${about}.`
        : `${about} is held from a root (${steps[0].root || steps[0].className}) over ${steps.length + leftOut - 1} references${own ? `; of the program's own, ${own.className} is on the way` : ''}.`,
    figures: last ? [{ name: 'keeps', value: formatBytes(last.retained) }] : [],
    verbatim: steps
      .map(
        ({ className, via, retained }, i) =>
          `${i === 0 ? '' : `  .${via || '?'} → `}${className} (${formatBytes(retained)})`
      )
      .join('\n')
      .slice(0, 15_000)
  };
}
