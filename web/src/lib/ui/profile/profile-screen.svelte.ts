import { heaviestBranch } from '@tromix/core/profile/functions';
import { unionOf } from '@tromix/core/profile/busy-within';
import { UNSHAPED } from '@tromix/core/profile/shape';
import type { SampleSelection } from '@tromix/core/profile/slice';
import { untrack } from 'svelte';
import type { RecordedRequests } from '$lib/server/queries/recorded-requests';
import { WHOLE_ZOOM, type Zoom } from './flame-view';
import { ProfileClient, type ProfileSource } from './profile-client.svelte';
import { ownEnd } from './profile-reading';
import { frameIndex, labelsOf, shapingOf, type Cut, type ProfileState } from './profile-state';
import { findFrames, shareOf } from './found-frames';

/** What is looked at: its members are read anew each time. */
export interface ProfileWish {
  /** What is opened. The same value for as long as it is the same: it is read anew for each other. */
  source: ProfileSource;
  shown: ProfileState;
  /** Of all files together. */
  durationNs: number;
  during: RecordedRequests;
  /** Part of the profile that the time rail selects; null for none. */
  onRail: Cut | null;
  /** Text that names and files of functions hold, as it is typed. */
  search: string;
  /** The part of the picture that is in view. */
  zoom: Zoom;
}

/** A profile that is looked at: its worker, what is asked of it, and what is chosen in the picture. */
export class ProfileScreen {
  client = $state.raw<ProfileClient | null>(null);
  /** Node of the picture that is chosen; −1 for none. */
  selected = $state(-1);
  /** The selection while it is dragged; the URL holds it once it stands. */
  dragged = $state.raw<Cut | null>(null);
  /** Pixels that the picture is drawn over. */
  pixels = $state(820);
  /** Function chosen in the table where the picture has no box for it. */
  #tableFrame = $state(-1);
  readonly #wish: ProfileWish;

  readonly opened = $derived.by(() => this.client?.opened ?? null);
  readonly view = $derived.by(() => this.client?.view ?? null);
  readonly error = $derived.by(() => this.client?.error ?? '');
  readonly index = $derived.by(() =>
    this.opened ? frameIndex(this.opened.frames) : new Map<string, number>()
  );
  readonly selection = $derived.by(() => this.dragged ?? this.#wish.shown.cut ?? this.#wish.onRail);
  readonly shaping = $derived.by(() => (this.opened ? shapingOf(this.#wish.shown, this.index) : UNSHAPED));
  /** Function that callers or neighbours are asked of; −1 for none. */
  readonly asked = $derived.by(() => this.index.get(this.#wish.shown.of) ?? -1);
  readonly samples = $derived.by<SampleSelection>(() => ({
    spans: this.#spans(),
    thread: this.#wish.shown.thread,
    labels: this.opened ? labelsOf(this.#wish.shown, this.opened.labels) : [],
    includeIdle: this.#wish.shown.idle
  }));
  /** Length of what is selected. */
  readonly lengthNs = $derived.by(() => {
    const { spans } = this.samples;
    if (!spans) return this.#wish.durationNs;
    let sum = 0;
    for (let i = 0; i < spans.length; i += 2) sum += spans[i + 1] - spans[i];
    return sum;
  });
  /** Functions that are searched for; null without a search. */
  readonly found = $derived.by(() =>
    this.opened ? findFrames(this.opened.frames, this.#wish.search) : null
  );
  readonly foundShare = $derived.by(() => (this.found && this.view ? shareOf(this.found, this.view) : 0));
  readonly selectedFrame = $derived.by(() =>
    this.view && this.selected >= 0 ? (this.view.nodeFrame[this.selected] ?? -1) : this.#tableFrame
  );

  /** To be made while a component is set up. */
  constructor(wish: ProfileWish) {
    this.#wish = wish;
    const source = $derived(wish.source);
    $effect(() => {
      const opening = new ProfileClient(source);
      this.client = opening;
      this.selected = -1;
      return () => opening.close();
    });
    $effect(() => this.#ask());
    $effect(() => {
      if (this.opened && wish.shown.show === 'packages') void this.client?.showOrigins(wish.shown.thread);
    });
  }

  /** Chooses a function: its heaviest node in the picture, where it has one. @returns the node; −1 */
  selectFunction(frame: number): number {
    const { view } = this;
    if (!view) return -1;
    this.#tableFrame = frame;
    let best = -1;
    view.nodeFrame.forEach((of, node) => {
      if (of === frame && view.total[node] > 0 && (best < 0 || view.total[node] > view.total[best]))
        best = node;
    });
    return (this.selected = best);
  }

  /** Chooses the end of the heaviest branch: from a node on, or from the root down to the application's last own function. */
  selectHeaviest(from = -1): number {
    const { opened, view } = this;
    if (!opened || !view) return -1;
    if (from >= 0) return (this.selected = heaviestBranch(view, view, from).at(-1)!);
    const end = ownEnd(opened, view);
    return (this.selected = end >= 0 ? end : view.heaviest.at(-1)!);
  }

  #spans(): Float64Array | null {
    const { shown, during, durationNs } = this.#wish;
    const { selection } = this;
    if (!shown.during) return selection ? Float64Array.of(selection.from, selection.to) : null;
    const requests = during.requests.filter(({ endpoint }) => endpoint === shown.during);
    return unionOf(requests, selection?.from ?? 0, selection?.to ?? durationNs);
  }

  #ask(): void {
    if (!this.opened) return;
    const { shown } = this.#wish;
    const inTime = shown.show === 'time';
    const client = untrack(() => this.client);
    client?.show({
      show: shown.show,
      selection: this.samples,
      shaping: this.shaping,
      frame: this.asked,
      file: shown.file,
      zoom: inTime ? this.#wish.zoom : WHOLE_ZOOM,
      pixels: inTime ? this.pixels : 0,
      isEven: shown.even,
      moving: this.dragged !== null
    });
  }
}
