import { handOver } from '$lib/ui/cases/pins.svelte';
import { copyText, type Action } from '$lib/ui/kit/actions';
import type { OpenedProfile, ProfileView } from '$lib/workers/profile.worker';
import { functionOffer } from './function-offer';
import { nameOf, type NamedAct, type ProfileState } from './profile-state';

interface Acting {
  opened: OpenedProfile;
  view: ProfileView;
  shown: ProfileState;
  href: (change: Partial<ProfileState>) => string;
  /** Zooms the picture to a node; null where no picture is shown. */
  zoomTo: ((node: number) => void) | null;
  followHeaviest: (node: number) => void;
}

/** Everything that can be done with a function, the same in every view. @param node its node in the picture; −1 for none */
export function frameActions(acting: Acting, frame: number, node: number): Action[] {
  const { opened, view, shown, href, zoomTo, followHeaviest } = acting;
  const known = opened.frames[frame];
  if (known.kind === 'root') return [];
  const name = nameOf(known);
  const withAct = (act: NamedAct['act']): string =>
    href({ acts: [...shown.acts, { act, by: 'frame', name }] });
  const stack = stackOf(opened, view, shown, node);
  return [
    ...(node >= 0 && zoomTo ? [{ name: 'Zoom in', run: () => zoomTo(node) }] : []),
    { name: 'Merge all its calls', href: href({ show: 'root', root: name, of: '' }) },
    { name: 'Show callers', href: href({ show: 'leaves', of: name }) },
    { name: 'Show callers and callees', href: href({ show: 'neighbours', of: name }) },
    ...(node >= 0 && shown.show === 'root'
      ? [{ name: 'Heaviest branch from here', run: () => followHeaviest(node) }]
      : []),
    { name: 'Only stacks through it', href: withAct('only') },
    { name: 'Hide stacks through it', href: withAct('hide') },
    { name: 'Fold into its caller', href: withAct('fold') },
    ...(known.file
      ? [{ name: 'Show its lines', href: href({ show: 'lines', file: known.file, of: name }) }]
      : []),
    ...handOver(() => functionOffer(opened, view, frame, stack)),
    ...(stack.length > 0 ? [{ name: 'Copy the stack', run: () => copyText(stack.join('\n')) }] : [])
  ];
}

/** Names from the root to a node. A picture that is read from the leaves has them the other way round. */
export function stackOf(
  opened: OpenedProfile,
  view: ProfileView,
  shown: ProfileState,
  node: number
): string[] {
  const path: string[] = [];
  for (let at = node; at > 0; at = view.nodeParent[at]) path.push(opened.frames[view.nodeFrame[at]].name);
  return shown.show === 'leaves' ? path : path.toReversed();
}
