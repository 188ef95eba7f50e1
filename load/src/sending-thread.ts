import v8 from 'node:v8';
import type { ResourceLimits, Worker } from 'node:worker_threads';

/** What a sending thread makes dies young: with little room for that it would collect all the time, and be late. */
const LIMITS: ResourceLimits = { maxYoungGenerationSizeMb: 64, maxOldGenerationSizeMb: 1024 };

/**
 * Starts a thread that sends a run, whose collector disturbs it as little as can be. V8 gives the heap of an idle thread back some seconds after the last
 * bustle, and the pause would be measured as the server’s; what it holds is little, and goes with it.
 * @param start makes the thread with some limits
 */
export function startSending(start: (resourceLimits: ResourceLimits) => Worker): Worker {
  v8.setFlagsFromString('--no-memory-reducer');
  const thread = start(LIMITS);
  // The thread’s heap reads the flag when it is made, which has happened before it runs.
  const restore = (): void => v8.setFlagsFromString('--memory-reducer');
  thread.once('online', restore);
  thread.once('error', restore);
  return thread;
}
