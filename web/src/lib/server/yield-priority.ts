import os from 'node:os';

/** How much this thread gives way to those that answer people. */
const NICENESS = 8;

/**
 * Lets other threads of this process go first when cores are scarce. On Linux a priority belongs to the calling thread;
 * elsewhere it would be the whole process's, so nothing is changed there.
 */
export function yieldToReaders(): void {
  if (process.platform !== 'linux') return;
  try {
    os.setPriority(NICENESS);
  } catch {
    // Not allowed here: everything works, only less politely.
  }
}
