import type { HeapMeta } from '@tromix/core/heap/heap-store';
import type { KeptGroup } from '@tromix/core/heap/holders';
import type { ObjectFacts } from '@tromix/core/heap/object-facts';
import type { HeapOverview, ObjectList, Step } from '$lib/server/heap/heap.worker';
import type { IndexState } from '$lib/server/heap/indexes';

export type { HeapOverview, ObjectList, Step };
export type Facts = ObjectFacts & { slotClasses: string[] };
export interface RootPathSteps {
  steps: Step[];
  leftOut: number;
  roots: { step: Step; steps: number }[];
}
export interface RepeatedString {
  value: string;
  count: number;
  wastedBytes: number;
  sample: number;
}

/** Questions about one dump, asked of the server. */
export class HeapClient {
  readonly #url: string;

  constructor(id: string, weak: boolean) {
    this.#url = `/api/heap/${id}${weak ? '?weak=1' : ''}`;
  }

  async state(again = false): Promise<IndexState> {
    const url = again ? `${this.#url}${this.#url.includes('?') ? '&' : '?'}again=1` : this.#url;
    return (await this.#answer(await fetch(url))) as IndexState;
  }
  async cancel(): Promise<void> {
    await fetch(this.#url, { method: 'DELETE' });
  }

  overview = (before: string): Promise<HeapOverview> =>
    this.#ask({ ask: 'overview', before: before || undefined });
  classes = (): Promise<Pick<HeapMeta, 'classes' | 'packages'>> => this.#ask({ ask: 'classes' });
  object = (object: number, from = 0): Promise<Facts> => this.#ask({ ask: 'object', object, from });
  path = (object: number): Promise<RootPathSteps> => this.#ask({ ask: 'path', object });
  kept = (object: number, from = 0, most = 100): Promise<ObjectList & { groups: KeptGroup[] }> =>
    this.#ask({ ask: 'kept', object, from, most });
  referrers = (object: number, from = 0, most = 20): Promise<ObjectList> =>
    this.#ask({ ask: 'referrers', object, from, most });
  search = (name: string, value: string, least: number, from = 0): Promise<ObjectList> =>
    this.#ask({ ask: 'search', name, value, least, from });
  added = (before: string, name: string): Promise<ObjectList | null> =>
    this.#ask({ ask: 'added', before, name });
  roots = (kind: string): Promise<ObjectList> => this.#ask({ ask: 'roots', kind });
  strings = (): Promise<RepeatedString[]> => this.#ask({ ask: 'strings' });

  async #ask<T>(question: object): Promise<T> {
    const response = await fetch(this.#url, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(question)
    });
    return (await this.#answer(response)) as T;
  }

  async #answer(response: Response): Promise<unknown> {
    if (response.ok) return response.json();
    const { message } = (await response.json().catch(() => ({}))) as { message?: string };
    throw new Error(message ?? `The server answered ${response.status}.`);
  }
}
