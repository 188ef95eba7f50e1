import type { ThreadMode } from './model';

/** What the states of `java.lang.Thread.State` say a thread does (source: its documentation). */
export const JVM_MODES: ReadonlyMap<string, ThreadMode> = new Map<string, ThreadMode>([
  ['RUNNABLE', 'running'],
  ['BLOCKED', 'blocked'],
  ['WAITING', 'waiting'],
  ['TIMED_WAITING', 'waiting'],
  ['NEW', 'unknown'],
  ['TERMINATED', 'unknown']
]);
