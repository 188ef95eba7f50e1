import { inSpan } from './telemetry';

/** A lock for one holder at a time; those who come meanwhile queue in order. The wait is a span that names the lock. */
export class Lock {
  #tail: Promise<void> = Promise.resolve();
  readonly #name: string;

  constructor(name: string) {
    this.#name = name;
  }

  async hold<T>(work: () => Promise<T>): Promise<T> {
    const before = this.#tail;
    let release!: () => void;
    this.#tail = new Promise((resolve) => (release = resolve));
    await inSpan(`wait for lock ${this.#name}`, { 'lock.name': this.#name }, () => before);
    try {
      return await work();
    } finally {
      release();
    }
  }
}
