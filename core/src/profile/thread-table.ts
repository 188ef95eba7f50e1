import type { Profile } from './model';

/** As many as fit into the numbers of threads. */
const MAX_THREADS = 65_535;

/** The threads of samples that are read one after another. */
export class ThreadTable {
  readonly #numbers = new Map<string, number>();
  readonly names: string[] = [];

  /** The number of a thread. More than can be told apart count as one: a thread for every request would be nobody's. */
  numberOf(name: string): number {
    const known = this.#numbers.get(name);
    if (known !== undefined) return known;
    const next = Math.min(this.names.length, MAX_THREADS - 1);
    this.#numbers.set(name, next);
    if (this.names.length < MAX_THREADS) this.names.push(next === MAX_THREADS - 1 ? 'other threads' : name);
    return next;
  }

  /** Threads as a profile has them. @param of the thread of each sample, by number */
  columns(of: Uint16Array): Pick<Profile, 'sampleThread' | 'threads'> {
    const { names } = this;
    return {
      sampleThread: names.length > 1 ? of : null,
      threads: names.some((name) => name !== '') ? names.map((name) => name || 'not told') : ['all threads']
    };
  }
}
