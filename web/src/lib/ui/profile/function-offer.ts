import { formatWeight } from '@tromix/core/profile/units';
import { formatShare } from '@tromix/core/text/format';
import type { Offer } from '$lib/ui/cases/pins.svelte';
import type { OpenedProfile, ProfileView } from '$lib/workers/profile.worker';
import { placeOf } from './profile-reading';

/** A function of a profile as something to be pinned: its weights in what is selected. @param stack names from the root to it; none where it is not known */
export function functionOffer(
  opened: OpenedProfile,
  view: ProfileView,
  frame: number,
  stack: readonly string[]
): Offer {
  const { name } = opened.frames[frame];
  const { self, total } = view.functions.find((one) => one.frame === frame) ?? { self: 0, total: 0 };
  const weight = (value: number): string =>
    `${formatWeight(value, opened)}, ${formatShare(value / view.sum)} of what is selected`;
  return {
    kind: 'function',
    title: name,
    sentence: `${name} itself: ${weight(self)}; with all it calls: ${weight(total)}.`,
    figures: [
      { name: 'self', value: formatWeight(self, opened) },
      { name: 'total', value: formatWeight(total, opened) },
      { name: 'samples selected', value: String(view.samples) },
      { name: 'where', value: placeOf(opened.frames[frame]) }
    ],
    verbatim: stack.join('\n')
  };
}
