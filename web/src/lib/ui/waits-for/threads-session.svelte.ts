import { wrap, type Remote } from 'comlink';
import type { OpenedThreads, ThreadsService } from '$lib/workers/threads.worker';

/** The dumps of one process, open in a worker of their own. */
export class ThreadsSession {
  opened = $state.raw<OpenedThreads | null>(null);
  error = $state('');
  readonly service: Remote<ThreadsService>;
  readonly #worker: Worker;

  /** @param ids evidence, in the order of time. */
  constructor(ids: readonly string[]) {
    this.#worker = new Worker(new URL('../../workers/threads.worker.ts', import.meta.url), {
      type: 'module'
    });
    this.#worker.addEventListener(
      'error',
      (event) => (this.error = event.message || 'The dumps could not be read.')
    );
    this.service = wrap<ThreadsService>(this.#worker);
    void this.#read(ids);
  }

  async #read(ids: readonly string[]): Promise<void> {
    const opened = await this.service.open(ids.map((id) => `/api/evidence/${id}/content`));
    if ('error' in opened) this.error = opened.error;
    else this.opened = opened;
  }

  close(): void {
    this.#worker.terminate();
  }
}
