import type { Watch } from '@tromix/core/watch/watch';
import type { Watched } from '@tromix/core/watch/watched';
import type { Action } from '$lib/ui/kit/actions';

/** What a chart, a row or a view offers to be watched, or to be put on a board. */
export interface WatchOffer {
  /** The figure it shows first; the others of the same kind can be chosen. */
  watched: Watched;
  /** What it is called on a board; '' for the words of its figure. */
  title?: string;
  /** Further lines of the same chart. */
  beside?: Watched[];
}

/** The dialogs of the frame: what is to be watched or put on a board; null while neither is open. */
export const watching = $state<{
  watch: WatchOffer | null;
  /** A watch that is changed. */
  changing: { id: string; version: number; watch: Watch } | null;
  board: WatchOffer | null;
}>({ watch: null, changing: null, board: null });

let offered = $state.raw<(() => WatchOffer | null) | null>(null);

/** What `w` watches on the screen that is open, where nothing in it has the focus that offers something itself. To be called while a component is set up. */
export function watchable(offer: () => WatchOffer | null): void {
  $effect(() => {
    offered = offer;
    return () => {
      if (offered === offer) offered = null;
    };
  });
}

const offers = new WeakMap<Element, () => WatchOffer | null>();

/** Notes what an element offers: `w` on it, or on anything in it, watches that. */
export function offersWatch(
  element: Element,
  offer: (() => WatchOffer | null) | undefined
): { update: (next: (() => WatchOffer | null) | undefined) => void } {
  const note = (next: typeof offer): void => void (next ? offers.set(element, next) : offers.delete(element));
  note(offer);
  return { update: note };
}

/** What is offered where the focus is: by the innermost element that offers something, else by the view. */
function offerHere(): WatchOffer | null {
  for (let at = document.activeElement; at; at = at.parentElement) {
    const offer = offers.get(at)?.();
    if (offer) return offer;
  }
  return offered?.() ?? null;
}

/** Opens the dialog for what has the focus. @returns whether anything is offered */
export function watchHere(): boolean {
  const offer = offerHere();
  if (offer) openWatch(offer);
  return offer !== null;
}

export function openWatch(offer: WatchOffer): void {
  watching.changing = null;
  watching.watch = offer;
}

/** The same of what may have none. */
export const watchActionsOf = (offer: WatchOffer | null | undefined): Action[] =>
  offer ? watchActions(offer) : [];

/** What every menu offers of something that has a figure. */
export const watchActions = (offer: WatchOffer): Action[] => [
  { name: 'Watch it', run: () => openWatch(offer) },
  { name: 'Put it on a board', run: () => void (watching.board = offer) }
];
