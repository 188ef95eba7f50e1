import { wrap, type Remote } from 'comlink';
import type { Sides } from '@tromix/core/sides';
import type { CompareService, SideSource } from '$lib/workers/compare.worker';

/** Two profiles, open in a worker of their own. */
export class CompareClient {
  durationsNs = $state.raw<Sides<number> | null>(null);
  /** Requests each side is of; null where its profiles do not know. */
  requests = $state.raw<Sides<number> | null>(null);
  error = $state('');
  readonly service: Remote<CompareService>;
  readonly #worker: Worker;

  constructor(sources: Sides<SideSource>) {
    this.#worker = new Worker(new URL('../../workers/compare.worker.ts', import.meta.url), {
      type: 'module'
    });
    const fail = (message: string): void => void (this.error = message || 'The profiles could not be read.');
    this.#worker.addEventListener('error', (event) => fail(event.message));
    this.service = wrap<CompareService>(this.#worker);
    this.service.open(sources).then(
      (opened) => {
        if ('error' in opened) fail(opened.error);
        else [this.durationsNs, this.requests] = [opened.durationsNs, opened.requests];
      },
      (cause: Error) => fail(cause.message)
    );
  }

  close(): void {
    this.#worker.terminate();
  }
}
