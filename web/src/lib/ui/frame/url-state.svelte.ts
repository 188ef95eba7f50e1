import { untrack } from 'svelte';
import { goto, replaceState } from '$app/navigation';
import { page } from '$app/state';
import type { ParamSet } from './params';

/** What the view that is open shows, as its address holds it. */
export interface UrlState<S> {
  readonly shown: S;
  /** A link to the same view with something changed. */
  href: (change: Partial<S>) => string;
  /** Goes there; the browser's own buttons go back and forth between states. */
  go: (change: Partial<S>) => Promise<void>;
  /** Writes it into the address without a visit to the server: `shown` stays as it is, and the page keeps what was chosen itself. */
  note: (change: Partial<S>) => void;
}

/** @param besides what is chosen on the page and not yet in its address; links carry it too. */
export function urlState<S>(params: ParamSet<S>, besides: () => Partial<S> = () => ({})): UrlState<S> {
  // By its text: news of the data make a new address object of the same address, and what was chosen since must stay.
  const search = $derived(page.url.search);
  const shown = $derived(params.read(new URLSearchParams(search)));
  const href = (change: Partial<S>): string =>
    `${page.url.pathname}?${params.write(page.url.searchParams, { ...shown, ...besides(), ...change })}`;
  return {
    get shown() {
      return shown;
    },
    href,
    go: (change) => goto(href(change), { keepFocus: true, noScroll: true }),
    note: (change) => untrack(() => replaceState(href(change), page.state))
  };
}

/** Browsers refuse addresses that change many times a second, as by a wheel or a key held down. */
const QUIET_MS = 250;

/** Keeps what is chosen on the page in its address, a moment after it changes. To be called while a component is set up. */
export function noteChosen<S>(address: UrlState<S>): void {
  $effect(() => {
    const href = address.href({});
    const timer = setTimeout(() => {
      if (href !== location.pathname + location.search) address.note({});
    }, QUIET_MS);
    return () => clearTimeout(timer);
  });
}
