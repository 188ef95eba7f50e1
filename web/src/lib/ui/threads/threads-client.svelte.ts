import { wrap, type Remote } from 'comlink';
import { across, type ThreadAcross } from '@tromix/core/threads/across';
import type { DumpSeries } from '@tromix/core/threads/model';
import { unpackSeries } from '@tromix/core/threads/packed';
import type { ReadThreads, ThreadsService } from '$lib/workers/threads.worker';

export type OpenedThreads = Omit<ReadThreads, 'series'> & { series: DumpSeries; across: ThreadAcross[] };

const startWorker = (): Worker =>
  new Worker(new URL('../../workers/threads.worker.ts', import.meta.url), { type: 'module' });

/** Starts with the page's code, while the server is asked for the page's data. */
let spare: Worker | undefined = startWorker();

/** The dumps of one process, open in a worker of their own. */
export class ThreadsClient {
  opened = $state.raw<OpenedThreads | null>(null);
  error = $state('');
  readonly service: Remote<ThreadsService>;
  readonly #worker: Worker;

  /** @param ids evidence, in the order of time. */
  constructor(ids: readonly string[]) {
    this.#worker = spare ?? startWorker();
    spare = undefined;
    this.#worker.addEventListener(
      'error',
      (event) => (this.error = event.message || 'The dumps could not be read.')
    );
    this.service = wrap<ThreadsService>(this.#worker);
    void this.#read(ids).catch(({ message }: Error) => (this.error = message));
  }

  async #read(ids: readonly string[]): Promise<void> {
    const opened = await this.service.open(ids.map((id) => `/api/evidence/${id}/content`));
    if ('error' in opened) this.error = opened.error;
    else {
      const series = unpackSeries(opened.series);
      this.opened = { ...opened, series, across: across(series) };
    }
  }

  close(): void {
    this.#worker.terminate();
  }
}
