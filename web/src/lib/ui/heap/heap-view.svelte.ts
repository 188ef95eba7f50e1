import type { HeapMeta } from '@tromix/core/heap/heap-store';
import { resource, type Resource } from '../frame/resource.svelte';
import {
  HeapClient,
  type HeapOverview,
  type ObjectList,
  type RepeatedString,
  type RootPathSteps
} from './heap-client';
import type { HeapState } from './heap-state';

const POLL_MS = 400;

/** What a view of a dump asks for. */
export interface HeapWish {
  id: string;
  /** An earlier dump it is held against; '' for none. */
  before: string;
  shown: HeapState;
  /** Object that is chosen; −1 for none. */
  selected: number;
}

/** What a dump is shown with at once. */
interface OpenedHeap {
  overview: HeapOverview;
  tables: Pick<HeapMeta, 'classes' | 'packages'>;
}

/** Objects that were asked for, and what has to be said of them. */
interface Listed {
  list: ObjectList;
  note: string;
}

/** A dump that is looked at: waits until it is indexed, and keeps the answers to what was asked last. */
export class HeapView {
  /** What is done while it is indexed; null before and after. */
  building = $state.raw<{ doing: string; part: number } | null>(null);
  readonly #wish: HeapWish;
  readonly #weak = $derived.by(() => this.#wish.shown.weak);
  readonly #id = $derived.by(() => this.#wish.id);
  readonly #before = $derived.by(() => this.#wish.before);
  #isAgain = false;
  readonly client = $derived.by(() => new HeapClient(this.#id, this.#weak));
  readonly #opened: Resource<OpenedHeap>;
  readonly path: Resource<RootPathSteps>;
  readonly objects: Resource<Listed>;
  readonly strings: Resource<RepeatedString[]>;

  readonly overview = $derived.by(() => this.#opened.value?.overview ?? null);
  readonly tables = $derived.by(() => this.#opened.value?.tables ?? null);
  readonly failed = $derived.by(() => this.#opened.error);
  /** What the picture shows the path to: what was chosen, else what the costliest finding is about. */
  readonly pathObject = $derived.by(() =>
    this.#wish.selected >= 0
      ? this.#wish.selected
      : (this.overview?.findings.find(({ evidence }) => evidence.object !== null)?.evidence.object ?? -1)
  );

  /** To be made while a component is set up. @param wish its members are read anew each time: only what changed is asked for. */
  constructor(wish: HeapWish) {
    this.#wish = wish;
    this.#opened = resource(
      () => ({ client: this.client, before: this.#before, weak: this.#weak }),
      ({ client, before, weak }, signal) => this.#open(client, before, weak, signal)
    );
    this.path = resource(
      () => (this.overview && this.pathObject >= 0 ? { client: this.client, of: this.pathObject } : null),
      ({ client, of }) => client.path(of),
      { keep: true }
    );
    const filter = $derived(JSON.stringify(this.#filter()));
    this.objects = resource(
      () => (this.overview && filter !== 'null' ? { client: this.client, filter } : null),
      ({ client }) => this.#list(client)
    );
    this.strings = resource(
      () => (this.overview && wish.shown.show === 'strings' ? this.client : null),
      (client) => client.strings()
    );
  }

  again(): void {
    this.#isAgain = true;
    this.#opened.again();
  }

  async #open(client: HeapClient, before: string, weak: boolean, signal: AbortSignal): Promise<OpenedHeap> {
    const again = this.#isAgain;
    this.#isAgain = false;
    try {
      if (before) await this.#ready(new HeapClient(before, weak), false, signal);
      await this.#ready(client, again, signal);
      const [overview, tables] = await Promise.all([client.overview(before), client.classes()]);
      return { overview, tables };
    } finally {
      if (!signal.aborted) this.building = null;
    }
  }

  /** Waits until a dump is indexed, and says meanwhile how far it is. */
  async #ready(client: HeapClient, again: boolean, signal: AbortSignal): Promise<void> {
    for (let first = again; ; first = false) {
      const state = await client.state(first);
      signal.throwIfAborted();
      if (state.state === 'ready') return;
      if (state.state === 'failed') throw new Error(state.message);
      this.building = state;
      await new Promise((resolve) => setTimeout(resolve, POLL_MS));
      signal.throwIfAborted();
    }
  }

  /** What a list of objects depends on; null where none is shown. */
  #filter(): unknown {
    const { show, name, value, least, root, added } = this.#wish.shown;
    if (show === 'roots') return { root };
    return show === 'objects' ? { name, value, least, added: added && this.#before } : null;
  }

  async #list(client: HeapClient): Promise<Listed> {
    const { show, name, value, least, root, added } = this.#wish.shown;
    if (show === 'roots') return { list: await client.roots(root), note: '' };
    if (!added || !this.#before) return { list: await client.search(name, value, least), note: '' };
    const list = await client.added(this.#before, name);
    if (list) return { list, note: '' };
    return {
      list: await client.search(name, value, least),
      note: 'object ids do not show what is new: objects of the earlier dump are listed too'
    };
  }
}
