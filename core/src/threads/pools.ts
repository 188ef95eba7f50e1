import { doingOfThread } from './doing';
import { ownDepth } from './places';
import type { DumpThread, ThreadDump, ThreadFrame, ThreadMode } from './model';

/** Threads of one name pattern. */
export interface Pool {
  /** The names with the last number as `*`; a name of its own for a thread that is alone. */
  pattern: string;
  threads: number[];
  /** True where their stacks show an executor that hands them work: only such a pool can be used up. */
  executor: boolean;
  modes: Record<ThreadMode, number>;
  /** Threads that wait for work: for a condition or for events, and in no code but the runtime's. */
  idle: number;
  /** Threads that wait for a condition inside the program's own code: for work, or for somebody; the dump does not tell. */
  undecided: number;
  /** The rest: at work, or held up in it. */
  busy: number;
}

/** `http-worker-*` of `http-worker-12`: the last number of a name counts the threads of a pool (common practice). */
export function poolPattern(name: string): string {
  return name.replace(/\d+(?=\D*$)/, '*');
}

/** Whether a thread waits for work; null where the dump does not tell. */
export function isIdle(frames: readonly ThreadFrame[], thread: DumpThread): boolean | null {
  const doing = doingOfThread(frames, thread);
  // Even where the machine calls it runnable: it waits in the kernel for somebody to come.
  if (doing === 'events' || doing === 'network-accept' || doing === 'nothing') return true;
  if (thread.mode === 'blocked' || (doing !== 'condition' && doing !== 'sleeping')) return false;
  if (ownDepth(frames, thread) < 0) return true;
  return doing === 'condition' ? null : false;
}

/** The loops of executors that keep their threads: of the JDK, of servlet containers, of Python (common practice, from their sources). */
const EXECUTOR =
  /ThreadPoolExecutor(?:\$Worker)?\.run|ForkJoinWorkerThread\.run|ForkJoinPool\.(?:runWorker|scan)|QueuedThreadPool|\bXnioWorker|EnhancedQueueExecutor|ThreadPool\w*\.\w*Worker/;
const EXECUTOR_FILE = /[/\\](?:concurrent[/\\]futures[/\\]thread|multiprocessing[/\\]pool)\.py$/;

/** A thread for each task has no such loop, however its name is numbered; nor has a virtual thread or a goroutine. */
function isWorker(frames: readonly ThreadFrame[], thread: DumpThread): boolean {
  if (thread.virtual) return false;
  return thread.frames.some(
    (frame) => EXECUTOR.test(frames[frame].name) || EXECUTOR_FILE.test(frames[frame].file)
  );
}

/** Pools by name pattern, largest first; threads of the runtime itself are left out. */
export function poolsOf(frames: readonly ThreadFrame[], { threads }: Pick<ThreadDump, 'threads'>): Pool[] {
  const pools = new Map<string, Pool>();
  threads.forEach((thread, i) => {
    if (thread.system) return;
    const pattern = poolPattern(thread.name);
    let pool = pools.get(pattern);
    if (!pool) {
      pool = {
        pattern,
        threads: [],
        executor: false,
        modes: { running: 0, blocked: 0, waiting: 0, sleeping: 0, unknown: 0 },
        idle: 0,
        undecided: 0,
        busy: 0
      };
      pools.set(pattern, pool);
    }
    pool.threads.push(i);
    pool.modes[thread.mode]++;
    const idle = isIdle(frames, thread);
    if (idle === null) pool.undecided++;
    else if (idle) pool.idle++;
    else pool.busy++;
  });
  for (const pool of pools.values()) {
    if (pool.threads.length === 1) pool.pattern = threads[pool.threads[0]].name;
    const worked = pool.threads.filter((i) => isWorker(frames, threads[i])).length;
    pool.executor = worked * 2 >= pool.threads.length;
  }
  return [...pools.values()].sort(
    (a, b) => b.threads.length - a.threads.length || a.pattern.localeCompare(b.pattern)
  );
}
