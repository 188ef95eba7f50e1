import { proxy, wrap, type Remote } from 'comlink';
import { ONLY_SUMS, type HowSure } from '@tromix/core/compare/how-sure';
import type { ComparedSides } from '$lib/server/queries/sides/compared-sides';
import type { HowSureService } from '$lib/workers/how-sure.worker';

/** How sure a comparison is, worked out in a worker of its own. */
export class HowSureClient {
  value = $state.raw<HowSure | null>(null);
  /** Share that is done, 0 to 1. */
  progress = $state(0);
  error = $state('');
  #worker: Worker | null = null;
  /** Held as long as the worker: a remote that is collected closes its other end. */
  #service: Remote<HowSureService> | null = null;

  constructor({ durationsNs, kept }: Pick<ComparedSides, 'durationsNs' | 'kept'>) {
    if (kept.before === 'sums' || kept.after === 'sums') {
      this.value = ONLY_SUMS;
      return;
    }
    this.#worker = new Worker(new URL('../../workers/how-sure.worker.ts', import.meta.url), {
      type: 'module'
    });
    const fail = (message: string): void =>
      void (this.error = message || 'The intervals could not be worked out.');
    this.#worker.addEventListener('error', (event) => fail(event.message));
    this.#service = wrap<HowSureService>(this.#worker);
    this.#service
      .howSure(
        durationsNs,
        proxy((share) => void (this.progress = share))
      )
      .then(
        (sure) => {
          this.value = sure;
          this.close();
        },
        (cause: Error) => fail(cause.message)
      );
  }

  close(): void {
    this.#worker?.terminate();
    this.#worker = null;
  }
}
