import { likelyByCounters, type LikelyByCounters } from '@tromix/core/trace/by-counters';
import type { Meanwhile } from '$lib/server/queries/hosts/meanwhile';
import { resource, type Resource } from '$lib/ui/frame/resource.svelte';
import { send } from '$lib/ui/frame/send';
import type { RequestModel } from './request-model';
import { takingPart } from './taking-part';

/** What the hosts and processes of a request told around it. To be made while a component is set up. */
export class CountersMeanwhile {
  readonly #model: () => RequestModel;
  readonly #asked: Resource<Meanwhile[]>;
  readonly fromMs: number = $derived.by(() => {
    const { trace, root } = this.#model();
    return Math.floor(trace.tree.nodes[root].span.startUs / 1000);
  });
  readonly toMs: number = $derived.by(() => Math.ceil(this.fromMs + this.#model().request.durationNs / 1e6));
  /** Time of its spans that was likely a collection, or waiting for a connection. */
  readonly likely: LikelyByCounters = $derived.by(() => {
    const { trace, request } = this.#model();
    return likelyByCounters(trace, request, this.told);
  });

  constructor(model: () => RequestModel) {
    this.#model = model;
    this.#asked = resource(
      () => ({ processes: takingPart(model()), from: this.fromMs, to: this.toMs }),
      ({ processes, from, to }, signal) => {
        const query = new URLSearchParams({
          processes: JSON.stringify(processes),
          from: String(from),
          to: String(to)
        });
        return send<Meanwhile[]>('GET', `/api/counters/meanwhile?${query}`, undefined, signal);
      }
    );
  }

  get told(): readonly Meanwhile[] {
    return this.#asked.value ?? [];
  }

  get error(): string {
    return this.#asked.error;
  }
}
