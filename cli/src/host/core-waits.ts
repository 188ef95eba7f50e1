import type { ProcFiles } from './proc-files';

const NS = 1e9;

/**
 * How long the threads of processes were ready to run and waited for a core, added up: the kernel tells it of each thread alone
 * (`/proc/pid/task/tid/schedstat`; Linux, Documentation/scheduler/sched-stats.rst), and of one that has ended no more.
 */
export class CoreWaits {
  readonly #files: ProcFiles;
  readonly #known = new Map<string, { threads: Map<string, number>; totalNs: number }>();

  constructor(files: ProcFiles) {
    this.#files = files;
  }

  /** Seconds so far, those of ended threads too since they were first looked at; null where the kernel does not count. @param key names the process for good */
  waitedS(key: string, pid: number): number | null {
    const threads = new Map<string, number>();
    for (const thread of this.#files.list(`${pid}/task`)) {
      const [, waited] = (this.#files.read(`${pid}/task/${thread}/schedstat`) ?? '').split(' ').map(Number);
      if (Number.isFinite(waited)) threads.set(thread, waited);
    }
    if (threads.size === 0) return null;
    const before = this.#known.get(key);
    let totalNs = before?.totalNs ?? 0;
    for (const [thread, waited] of threads)
      totalNs += Math.max(0, waited - (before?.threads.get(thread) ?? 0));
    this.#known.set(key, { threads, totalNs });
    return totalNs / NS;
  }

  /** Lets go of processes that are not looked at any more. */
  keepOnly(keys: { has: (key: string) => boolean }): void {
    for (const key of this.#known.keys()) if (!keys.has(key)) this.#known.delete(key);
  }
}
