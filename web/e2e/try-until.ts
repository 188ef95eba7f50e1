import { setTimeout as pause } from 'node:timers/promises';

/** The first attempt’s patience; each further one has twice as much, so that a machine of any speed gets there. */
const FIRST_MS = 1000;
const LAST_MS = 32_000;

/**
 * Tries again until nothing is thrown: for what is there a moment later, and seen only by opening the page anew.
 * @param attempt takes the time it may wait.
 */
export async function tryUntil(attempt: (patience: { timeout: number }) => Promise<void>): Promise<void> {
  for (let timeout = FIRST_MS; ; timeout *= 2)
    try {
      await attempt({ timeout });
      return;
    } catch (cause) {
      if (timeout >= LAST_MS) throw cause;
      await pause(timeout / 4);
    }
}
