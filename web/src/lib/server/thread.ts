import type { Worker } from 'node:worker_threads';
import { wrap } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';

interface Running<Service> {
  service: Service;
  /** How each call under way is told that the thread is gone. */
  waiting: Set<(cause: Error) => void>;
}

/** A worker thread that is started by the first call, and anew by the first call after it died. */
export class Thread<Service> {
  readonly #start: () => { thread: Worker; ready: (service: Service) => Promise<void> };
  #running: Promise<Running<Service>> | undefined;

  constructor(start: () => { thread: Worker; ready: (service: Service) => Promise<void> }) {
    this.#start = start;
  }

  /** Calls the service. A thread that dies meanwhile fails the call instead of leaving it waiting. */
  async call<T>(work: (service: Service) => Promise<T>): Promise<T> {
    return under(await (this.#running ??= this.#open()), work);
  }

  async #open(): Promise<Running<Service>> {
    const { thread, ready } = this.#start();
    // Every method of the services answers with a promise, so the proxy has their very type.
    const running: Running<Service> = {
      service: wrap(nodeEndpoint(thread)) as unknown as Service,
      waiting: new Set()
    };
    let ended = false;
    const end = (cause: unknown): void => {
      if (ended) return;
      ended = true;
      this.#running = undefined;
      const error = cause instanceof Error ? cause : new Error(`The thread ended with ${String(cause)}.`);
      console.error('A worker thread ended; the next call starts it again.', error);
      for (const fail of running.waiting) fail(error);
    };
    thread.once('error', end);
    thread.once('exit', end);
    try {
      await under(running, ready);
    } catch (cause) {
      this.#running = undefined;
      await thread.terminate();
      throw cause;
    }
    return running;
  }
}

/** Nothing of a call is left behind once it is answered: a race against the thread's end would keep each one. */
async function under<Service, T>(
  { service, waiting }: Running<Service>,
  work: (service: Service) => Promise<T>
): Promise<T> {
  let fail!: (cause: Error) => void;
  const gone = new Promise<never>((_, reject) => (fail = reject));
  waiting.add(fail);
  try {
    return await Promise.race([work(service), gone]);
  } finally {
    waiting.delete(fail);
  }
}
