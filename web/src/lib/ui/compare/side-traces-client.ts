import { wrap, type Remote } from 'comlink';
import { partKey, type DifferenceLedger, type DifferenceLine } from '@tromix/core/compare/difference-ledger';
import { eachSide, type Sides } from '@tromix/core/sides';
import type { SideTracesService } from '$lib/workers/side-traces.worker';

/** A worker that has the traces, and how many requests of each side it read. */
interface Opened {
  service: Remote<SideTracesService>;
  count: Sides<number>;
}

/** The newest requests of both sides with all their spans, opened when they are first asked for. */
export class SideTracesClient {
  readonly #query: string;
  #worker: Worker | null = null;
  #opened: Promise<Opened> | null = null;

  constructor(query: string) {
    this.#query = query;
  }

  async count(): Promise<Sides<number>> {
    return (await this.#open()).count;
  }

  async byService(): Promise<DifferenceLedger> {
    return (await this.#open()).service.byService();
  }

  /** What a call is made of, on both sides. */
  async inside({ parts }: DifferenceLine): Promise<DifferenceLedger> {
    const { service } = await this.#open();
    return service.inside(eachSide(parts, (part) => part && partKey(part)));
  }

  #open(): Promise<Opened> {
    return (this.#opened ??= this.#start());
  }

  async #start(): Promise<Opened> {
    this.#worker = new Worker(new URL('../../workers/side-traces.worker.ts', import.meta.url), {
      type: 'module'
    });
    // Held as long as the worker: a remote that is collected closes its other end.
    const service = wrap<SideTracesService>(this.#worker);
    return { service, count: await service.open(`/api/compare/traces${this.#query}`) };
  }

  close(): void {
    this.#worker?.terminate();
  }
}
