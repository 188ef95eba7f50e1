import { wrap, type Remote } from 'comlink';
import type { Compared, CompareService } from '$lib/workers/compare.worker';

/** Two open profiles and what became of the comparison asked for last. */
export class CompareClient {
  compared = $state.raw<Compared | null>(null);
  durationsNs = $state.raw<[number, number] | null>(null);
  error = $state('');
  readonly #worker: Worker;
  readonly #service: Remote<CompareService>;

  constructor(before: string, after: string) {
    this.#worker = new Worker(new URL('../../workers/compare.worker.ts', import.meta.url), {
      type: 'module'
    });
    this.#worker.addEventListener(
      'error',
      (event) => (this.error = event.message || 'The profiles could not be read.')
    );
    this.#service = wrap<CompareService>(this.#worker);
    const url = (id: string): string => `/api/evidence/${id}/content`;
    void this.#service.open(url(before), url(after)).then((opened) => {
      if ('error' in opened) this.error = opened.error;
      else this.durationsNs = opened.durationsNs;
    });
  }

  /** @param per what each side's weights are divided by; 0 for shares. */
  async compare(per: [number, number]): Promise<void> {
    this.compared = await this.#service.compare(per);
  }

  close(): void {
    this.#worker.terminate();
  }
}
