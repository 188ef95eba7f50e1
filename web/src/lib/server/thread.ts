import type { Worker } from 'node:worker_threads';
import { wrap } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';

interface Running<Service> {
  thread: Worker;
  service: Service;
  /** How each call under way learns that the thread is gone. */
  waiting: Set<(cause: Error) => void>;
}

/** The thread that worked on a call died, or was ended because it took too long. */
export class ThreadEnded extends Error {
  /** Calls that were under way: of one alone it is known that the thread died of it. */
  readonly calls: number;
  /** True for the call that had waited longest: a thread that answers in turn died of this one. */
  readonly oldest: boolean;

  constructor(message: string, calls: number, oldest: boolean, cause: unknown) {
    super(message, { cause });
    this.calls = calls;
    this.oldest = oldest;
  }
}

/** How a thread is started. */
export interface Started<Service> {
  thread: Worker;
  ready: (service: Service) => Promise<void>;
}

/** A worker thread that is started by the first call, and anew by the first call after it died. */
export class Thread<Service> {
  readonly #name: string;
  readonly #start: () => Started<Service>;
  #running: Promise<Running<Service>> | undefined;
  /** Called when the thread died. */
  onended: () => void = () => undefined;

  constructor(name: string, start: () => Started<Service>) {
    this.#name = name;
    this.#start = start;
  }

  /**
   * Calls the service. A thread that dies meanwhile fails the call instead of leaving it waiting.
   * @param withinMs a call that takes longer ends the thread.
   * @throws ThreadEnded
   */
  async call<T>(work: (service: Service) => Promise<T>, withinMs = Infinity): Promise<T> {
    const running = await (this.#running ??= this.#open());
    if (withinMs === Infinity) return under(running, work);
    const late = setTimeout(() => void running.thread.terminate(), withinMs);
    try {
      return await under(running, work);
    } finally {
      clearTimeout(late);
    }
  }

  async #open(): Promise<Running<Service>> {
    const { thread, ready } = this.#start();
    // Every method of the services answers with a promise, so the proxy has their very type.
    const running: Running<Service> = {
      thread,
      service: wrap(nodeEndpoint(thread)) as unknown as Service,
      waiting: new Set()
    };
    let ended = false;
    const end = (cause: unknown): void => {
      if (ended) return;
      ended = true;
      this.#running = undefined;
      const words = cause instanceof Error ? cause.message : `It ended with ${String(cause)}.`;
      const message = `The thread ${this.#name} ended: ${words}`;
      console.error(`${message} The next call starts it again.`);
      const calls = [...running.waiting];
      calls.forEach((fail, i) => fail(new ThreadEnded(message, calls.length, i === 0, cause)));
      this.onended();
    };
    thread.once('error', end);
    thread.once('exit', end);
    try {
      await under(running, ready);
    } catch (cause) {
      this.#running = undefined;
      ended = true;
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
