import { wrap, type Remote } from 'comlink';
import type { Sides } from '@tromix/core/sides';
import type { CompareService } from '$lib/workers/compare.worker';

const url = (id: string): string => `/api/evidence/${id}/content`;

/** Two profiles, open in a worker of their own. */
export class CompareClient {
  durationsNs = $state.raw<Sides<number> | null>(null);
  error = $state('');
  readonly service: Remote<CompareService>;
  readonly #worker: Worker;

  constructor(before: string, after: string) {
    this.#worker = new Worker(new URL('../../workers/compare.worker.ts', import.meta.url), {
      type: 'module'
    });
    const fail = (message: string): void => void (this.error = message || 'The profiles could not be read.');
    this.#worker.addEventListener('error', (event) => fail(event.message));
    this.service = wrap<CompareService>(this.#worker);
    this.service.open(url(before), url(after)).then(
      (opened) => {
        if ('error' in opened) fail(opened.error);
        else this.durationsNs = opened.durationsNs;
      },
      (cause: Error) => fail(cause.message)
    );
  }

  close(): void {
    this.#worker.terminate();
  }
}
