import v8 from 'node:v8';
import { isMainThread } from 'node:worker_threads';

/** A plan of `tromix run`: how many heap dumps, and until when (epoch milliseconds). */
const PLAN = /^(\d{1,4}) (\d{1,15})$/.exec(process.env.TROMIX_RUN_HEAP_DUMPS ?? '');

/** Has the runtime write heap dumps when it is about to run out of memory. A process that is started after the plan’s end takes none. */
export function dumpNearLimit(): void {
  if (!PLAN || !isMainThread || Date.now() >= Number(PLAN[2])) return;
  v8.setHeapSnapshotNearHeapLimit(Number(PLAN[1]));
}
