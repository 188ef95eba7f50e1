import type { Frame } from '../profile/model';

/** What a thread is at, in four words that hold for every runtime. `unknown` where the dump does not tell. */
export const THREAD_MODES = ['running', 'blocked', 'waiting', 'sleeping', 'unknown'] as const;
export type ThreadMode = (typeof THREAD_MODES)[number];

export type ThreadFormat =
  'jvm-threads' | 'jvm-threads-json' | 'jvm-threads-file' | 'python-threads' | 'go-threads' | 'node-report';
export const THREAD_FORMATS: readonly ThreadFormat[] = [
  'jvm-threads',
  'jvm-threads-json',
  'jvm-threads-file',
  'python-threads',
  'go-threads',
  'node-report'
];

/** Something threads hold or wait for. */
export interface Lock {
  /** Address or id as the dump names it. */
  id: string;
  /** Class or kind; '' where it is not reported. */
  className: string;
}

/**
 * Why a thread stands at a lock: `enter` and `re-enter` wait for a monitor, `park` for a synchronizer or a condition,
 * `notify` for somebody's notification, `mutex` for a lock whose kind the runtime names no closer.
 */
export type WaitKind = 'enter' | 're-enter' | 'park' | 'notify' | 'mutex';

/** A lock held or waited for, and the frame (0 is the innermost) it was taken in; −1 where that is not reported. */
export interface LockUse {
  lock: number;
  depth: number;
}

export interface DumpThread {
  name: string;
  /** The runtime's own id of the thread; '' where it has none. */
  id: string;
  /** The operating system's number of it; '' where it is not reported. */
  nativeId: string;
  /** As the runtime words it; '' where it does not. */
  state: string;
  mode: ThreadMode;
  daemon: boolean;
  virtual: boolean;
  /** A thread of the runtime itself, without a stack of the program. */
  system: boolean;
  /** Milliseconds; null where the dump does not tell. */
  cpuMs: number | null;
  elapsedMs: number | null;
  /** Innermost first: indices into the frames of the series. */
  frames: Int32Array;
  holds: LockUse[];
  waitsFor: (LockUse & { kind: WaitKind }) | null;
}

/** A deadlock as the runtime itself tells it: threads by name, each with the lock it waits for. */
export interface ReportedDeadlock {
  threads: { name: string; lock: string; heldBy: string }[];
}

export interface ThreadDump {
  /** As written, `YYYY-MM-DDTHH:MM:SS` with the zone where it is reported; '' where the dump has no time. */
  capturedAt: string;
  /** The runtime and its version, as far as the dump tells. */
  runtime: string;
  /** 0 where unknown. */
  pid: number;
  threads: DumpThread[];
  /** Locks of this dump: the same address in another dump may be another object. */
  locks: Lock[];
  reportedDeadlocks: ReportedDeadlock[];
  /** Further facts in words, for people. */
  notes: string[];
}

/** One frame of a stack; its name is qualified and has no arguments. */
export type ThreadFrame = Frame;

/** The dumps of one file, in the order they stand there, with the frames they share. */
export interface DumpSeries {
  format: ThreadFormat;
  frames: ThreadFrame[];
  dumps: ThreadDump[];
}
