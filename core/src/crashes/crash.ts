import type { RecordedException } from '../failures/identity';

export const CRASH_FORMATS = ['node-crash', 'jvm-fatal-log', 'crash-text', 'process-end'] as const;
export type CrashFormat = (typeof CRASH_FORMATS)[number];

/** What ended a process, as far as its traces tell. */
export type CrashCause =
  /** It ran out of memory, as the runtime itself says. */
  | 'memory'
  /** Its stack was full: functions called each other without end. */
  | 'recursion'
  /** Every thread waited for another. */
  | 'deadlock'
  /** An exception that nobody caught. */
  | 'exception'
  | 'signal'
  /** The runtime gave up. */
  | 'runtime'
  /** It ended by itself, with an exit code that tells of a failure. */
  | 'exit';

/** The end of a process. What its files do not tell is null or ''. */
export interface Crash {
  cause: CrashCause;
  /** What was thrown, or what the runtime said instead; null where nothing tells. */
  exception: RecordedException | null;
  /** As `Node.js v20.20.2`. */
  runtime: string;
  /** Name of a signal, as `SIGSEGV`. */
  signal: string;
  exitCode: number | null;
  thread: string;
  pid: number;
  /** When it ended, epoch milliseconds. */
  atMs: number | null;
  uptimeMs: number | null;
  /** At its end. */
  memory: { name: string; bytes: number }[];
  /** What it was allowed; null for a limit that is none. */
  limits: { name: string; value: number | null; unit: 'bytes' | 'files' | 'processes' | 'seconds' }[];
  /** The last lines of its standard error. */
  lastLines: string[];
  /** The program as it was started, without its arguments. */
  program: string;
  /** Whether the file was cut off. */
  isCut: boolean;
}

export const NO_CRASH: Crash = {
  cause: 'exit',
  exception: null,
  runtime: '',
  signal: '',
  exitCode: null,
  thread: '',
  pid: 0,
  atMs: null,
  uptimeMs: null,
  memory: [],
  limits: [],
  lastLines: [],
  program: '',
  isCut: false
};
