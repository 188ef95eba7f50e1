import type { CrashCause } from './crash';

/** What ended a process, in a few words. */
export const CAUSES: Record<CrashCause, string> = {
  memory: 'out of memory',
  recursion: 'stack full',
  deadlock: 'deadlock',
  exception: 'exception nobody caught',
  signal: 'signal',
  runtime: 'runtime gave up',
  exit: 'exit code'
};
