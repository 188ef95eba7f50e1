import { page } from '$app/state';
import { toast } from 'svelte-sonner';
import type { PinInput } from '@tromix/core/case/case';
import { send } from '$lib/ui/frame/send';
import type { Action } from '$lib/ui/kit/actions';
import { absoluteLink } from '$lib/ui/shell/links';
import { viewOf } from '$lib/views';
import { pictureOfMain } from './picture';

/** What a view says of itself when it is pinned; what it leaves out is taken from the screen. */
export interface Offer extends Partial<PinInput> {
  title?: string;
  /** What its brief is asked of, where it is more than what is pinned. */
  brief?: BriefSource;
}

/** An entry that is ready to be added. */
export interface NewEntry {
  title: string;
  text: string;
  pin: PinInput | null;
}

let offered = $state.raw<(() => Offer) | null>(null);

/** What `p` pins on the screen that is open. To be called while a component is set up. @param offer read when it is pinned */
export function pinnable(offer: () => Offer): void {
  $effect(() => {
    offered = offer;
    return () => {
      if (offered === offer) offered = null;
    };
  });
}

const KEY = 'tromix-case';
/** The case that pins go to, and what waits to be pinned while one is chosen. */
export const pinning = $state<{ caseId: string; waiting: NewEntry | null }>({
  caseId: typeof localStorage === 'undefined' ? '' : (localStorage.getItem(KEY) ?? ''),
  waiting: null
});

export function chooseCase(id: string): void {
  pinning.caseId = id;
  localStorage.setItem(KEY, id);
}

/** The words of the reading beside the view: they say what it shows. */
function readingWords(): string {
  const aside = document.querySelector('aside[aria-label="Reading"]');
  if (!aside) return '';
  const sentences = [...aside.querySelectorAll(':scope > p')].map(({ textContent }) => textContent.trim());
  return sentences.filter(Boolean).join(' ').replace(/\s+/g, ' ').slice(0, 1500);
}

/** Of what a brief is shown; null while none is. */
export const briefing = $state<{ of: BriefSource | null }>({ of: null });

/** Something that a brief can be asked of. */
export interface BriefSource {
  title: string;
  ask: (length: 'short' | 'full', as: 'html' | 'md') => Promise<Response>;
}

/** What every menu offers of the thing it is about: to pin it, and to hand it on. @param offer read when it is chosen */
export const handOver = (offer: () => Offer): Action[] => [
  { name: 'Pin to a case', run: () => void pinHere(offer()) },
  { name: 'Brief of it', run: () => briefHere(offer()) }
];

/** Shows the brief of the view that is open, or of a thing in it. */
export function briefHere(more: Offer = {}): void {
  const whole = Object.keys(more).length === 0 && offered?.().brief;
  if (whole) return void (briefing.of = whole);
  const { title, pin } = entryHere(more);
  briefing.of = {
    title,
    ask: (length, as) =>
      fetch(`/api/brief?length=${length}&as=${as}`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ title, pin })
      })
  };
}

/** The view that is open as an entry: its words, its figures and its picture as they are now, and its address with an absolute time. */
export function entryHere(more: Offer = {}): NewEntry {
  const view = offered?.() ?? {};
  // A thing in the view is not the view: of what the view says of itself only the evidence is its own, too.
  const own = more.kind ? { traces: view.traces, files: view.files } : view;
  const { title, brief: _, ...offer } = { ...own, ...more };
  const { origin } = location;
  const name = viewOf(page.url.pathname)?.name ?? 'View';
  return {
    title: title ?? name,
    text: '',
    pin: {
      kind: 'view',
      sentence: readingWords() || name,
      address: absoluteLink().slice(origin.length),
      picture: pictureOfMain(),
      ...offer
    }
  };
}

/** Pins the view that is open, or asks to which case first. */
export async function pinHere(more: Offer = {}): Promise<void> {
  await pinEntry(entryHere(more));
}

/** The open case that pins go to; null while none is chosen. */
export function pinsTo(): { id: string; question: string } | null {
  const { cases } = page.data as { cases?: { id: string; question: string }[] };
  return cases?.find(({ id }) => id === pinning.caseId) ?? null;
}

export async function pinEntry(entry: NewEntry): Promise<void> {
  const current = pinsTo();
  if (!current) {
    pinning.waiting = entry;
    return;
  }
  await addTo(current.id, current.question, entry);
}

/** Adds an entry to a case, and says so. */
export async function addTo(caseId: string, question: string, entry: NewEntry): Promise<boolean> {
  try {
    await send('POST', `/api/cases/${caseId}/entries`, entry);
    toast.success(`Pinned to “${question}”.`, {
      action: {
        label: 'Open',
        onClick: () => void import('$app/navigation').then(({ goto }) => goto(`/cases/${caseId}`))
      }
    });
    return true;
  } catch (cause) {
    toast.error((cause as Error).message);
    return false;
  }
}
