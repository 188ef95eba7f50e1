import type { HeapMeta } from '@tromix/core/heap/heap-store';
import { HeapClient, type HeapOverview, type ObjectList, type RepeatedText, type Way } from './heap-client';
import type { HeapState } from './heap-state';

const POLL_MS = 400;

/** What a view of a dump asks for. */
export interface HeapWish {
  id: string;
  /** An earlier dump it is held against; '' for none. */
  against: string;
  shown: HeapState;
  /** Object that is chosen; −1 for none. */
  selected: number;
}

/** A dump that is looked at: waits until it is indexed, and keeps the answers to what was asked last. */
export class HeapView {
  /** What is done while it is indexed; null before and after. */
  building = $state.raw<{ doing: string; part: number } | null>(null);
  failed = $state('');
  overview = $state.raw<HeapOverview | null>(null);
  tables = $state.raw<Pick<HeapMeta, 'classes' | 'packages'> | null>(null);
  way = $state.raw<Way | null>(null);
  list = $state.raw<ObjectList | null>(null);
  listNote = $state('');
  texts = $state.raw<RepeatedText[] | null>(null);
  #attempt = $state(0);
  readonly #wish: HeapWish;
  readonly #weak = $derived.by(() => this.#wish.shown.weak);
  readonly #id = $derived.by(() => this.#wish.id);
  readonly client = $derived.by(() => new HeapClient(this.#id, this.#weak));
  /** What the picture shows the way to: what was chosen, else what the costliest finding is about. */
  readonly wayObject = $derived.by(() =>
    this.#wish.selected >= 0
      ? this.#wish.selected
      : (this.overview?.findings.find(({ evidence }) => evidence.object !== null)?.evidence.object ?? -1)
  );

  /** To be made while a component is set up. @param wish its members are read anew each time: only what changed is asked for. */
  constructor(wish: HeapWish) {
    this.#wish = wish;
    $effect(() => this.#open());
    $effect(() => this.#askWay());
    $effect(() => this.#askList());
  }

  again(): void {
    this.#attempt++;
  }

  #open(): () => void {
    const asked = this.client;
    const { against } = this.#wish;
    const weak = this.#weak;
    const again = this.#attempt > 0;
    let left = false;
    const current = (): boolean => !left;
    this.overview = null;
    this.tables = null;
    this.failed = '';
    void (async () => {
      if (against && !(await this.#ready(new HeapClient(against, weak), false, current))) return;
      if (!(await this.#ready(asked, again, current))) return;
      const [overview, tables] = await Promise.all([asked.overview(against), asked.classes()]);
      if (left) return;
      this.building = null;
      [this.overview, this.tables] = [overview, tables];
    })().catch((cause: Error) => {
      if (!left) [this.failed, this.building] = [cause.message, null];
    });
    return () => (left = true);
  }

  /** Waits until a dump is indexed, and says meanwhile how far it is. */
  async #ready(asked: HeapClient, again: boolean, current: () => boolean): Promise<boolean> {
    for (let first = again; current(); first = false) {
      const state = await asked.state(first);
      if (state.state === 'ready') return true;
      if (state.state === 'failed') throw new Error(state.message);
      this.building = state;
      await new Promise((resolve) => setTimeout(resolve, POLL_MS));
    }
    return false;
  }

  #askWay(): void {
    const asked = this.wayObject;
    if (!this.overview || asked < 0) {
      this.way = null;
      return;
    }
    void this.client.way(asked).then((found) => {
      if (asked === this.wayObject) this.way = found;
    });
  }

  #askList(): void {
    const { against, shown } = this.#wish;
    const { show, name, value, least, root, added } = shown;
    if (!this.overview) return;
    const asked = this.client;
    this.list = null;
    this.listNote = '';
    const take = (found: ObjectList): void => {
      if (asked === this.client) this.list = found;
    };
    if (show === 'objects' && added && against)
      void asked.added(against, name).then((found) => {
        if (found) return take(found);
        this.listNote = 'identities do not tell them: those of the earlier dump are among them';
        void asked.search(name, value, least).then(take);
      });
    else if (show === 'objects') void asked.search(name, value, least).then(take);
    else if (show === 'roots') void asked.roots(root).then(take);
    else if (show === 'texts') void asked.texts().then((found) => (this.texts = found));
  }
}
