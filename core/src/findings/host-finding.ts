import { longestOf, stretchesWhere, type Stretch } from '../counters/stretches';
import type { Line, MeasureKey } from '../counters/strips';
import type { Severity } from './finding';

/** A process of a host over a time, all of which averages are of, also where it did not run; null for what is not told. */
export interface HostProcess {
  pid: number;
  name: string;
  commandLine: string;
  owner: string;
  parentPid: number | null;
  /** Epoch milliseconds. */
  startedMs: number | null;
  /** '' for one that serves no requests here. */
  service: string;
  release: string;
  /** Cores it used on average, in all, by its own code and by the system for it. */
  cores: number | null;
  userCores: number | null;
  systemCores: number | null;
  /** Seconds a second in which its threads were ready to run and waited for a core. */
  waits: number | null;
  memoryBytes: number | null;
  threads: number | null;
  /** Bytes a second. */
  reads: number | null;
  writes: number | null;
  openFiles: number | null;
}

/** A file system over the last days: what was used, bytes, at moments in epoch milliseconds. */
export interface HostFileSystem {
  mount: string;
  usedBytes: number;
  limitBytes: number;
  trend: { atMs: readonly number[]; usedBytes: readonly number[] };
}

/** A pool of connections or threads over a window. */
export interface HostPool {
  name: string;
  of: 'connections' | 'threads';
  service: string;
  /** The most it may hold; null where it is not told. */
  size: number | null;
  used: Line;
  waiting: Line;
  /** Median time for one while somebody waited, seconds; null where it is not told. */
  waitedS: number | null;
}

/** The memory of a service on a host, and how many of its requests were under way, bin by bin alike. */
export interface HostMemory {
  service: string;
  bytes: Line;
  underWay: Line;
}

/** How late the event loop of a process was, seconds at the 99th percentile. */
export interface HostLoop {
  service: string;
  /** 0 where it is not told. */
  pid: number;
  line: Line;
}

/** A service whose requests took longer here than elsewhere: like endpoints are held against each other. */
export interface SlowerHere {
  service: string;
  /** Time of its requests here, of what they took elsewhere. */
  ratio: number;
  requests: number;
}

/** A host over a window, as far as rules look at it. */
export interface HostContext {
  host: string;
  /** Cores it has; null where it is not told. */
  cores: number | null;
  /** Epoch milliseconds of the first bin, and the length of each. */
  fromMs: number;
  stepMs: number;
  bins: number;
  lines: Readonly<Partial<Record<MeasureKey, Line | null>>>;
  /** Pages a second that went to and came from the swap space; null where it is not told. */
  swapping: Line | null;
  /** Its processes in some bins, those that used most of the cores first. */
  processesIn: (stretch: Stretch) => readonly HostProcess[];
  fileSystems: readonly HostFileSystem[];
  pools: readonly HostPool[];
  loops: readonly HostLoop[];
  memories: readonly HostMemory[];
  /** While its cores were nearly all in use. */
  slowerWhileBusy: readonly SlowerHere[];
}

/** What a rule found on a host. */
export interface FoundOnHost {
  title: string;
  severity: Severity;
  sentence: string;
  remedy: string;
  figures: Record<string, number | string | null>;
  /** When, epoch milliseconds. */
  fromMs: number;
  toMs: number;
  /** The process it is about. */
  pid?: number;
  /** The service whose requests show it. */
  service?: string;
}
export type HostFinding<Name extends string = string> = FoundOnHost & { rule: Name };

/** When a stretch of bins was. */
export const timesOf = (
  { fromMs, stepMs }: Pick<HostContext, 'fromMs' | 'stepMs'>,
  [from, to]: Stretch
): { fromMs: number; toMs: number } => ({ fromMs: fromMs + from * stepMs, toMs: fromMs + to * stepMs });

/** A process as it is named in a sentence. */
export const processWords = ({ name, pid, owner }: HostProcess): string =>
  `${name} (pid ${pid}${owner ? `, of ${owner}` : ''})`;

/** So much of a processor counts as busy: what comes next has to wait (common practice). */
export const BUSY_SHARE = 0.85;
/** The longest stretch in which the cores of a host were nearly all in use; null for none. @param line share of all cores in use */
export const busyStretch = (line: Line | null | undefined): Stretch | null =>
  line ? longestOf(stretchesWhere(line.length, (bin) => (line[bin] ?? 0) >= BUSY_SHARE)) : null;
export const BUSY = {
  name: 'busy',
  value: `${BUSY_SHARE * 100} % of all cores in three bins in a row or more`,
  why: 'Above it, work that comes at the same moment waits for a core. Common practice.'
};
