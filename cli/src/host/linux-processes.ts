import { readFileSync } from 'node:fs';
import { growing, standing, type Measure, type Told } from './measures';
import { numbersIn, TICKS, type ProcFiles } from './proc-files';

/** What is read of a process at one moment. */
export interface ProcessReading {
  pid: number;
  parentPid: number;
  name: string;
  commandLine: string;
  owner: string;
  /** Epoch milliseconds; with the pid it names the process. */
  startedMs: number;
  /** Seconds. */
  userS: number;
  systemS: number;
  residentBytes: number;
  threads: number;
  /** Bytes that went to and came from storage; null where only the owner may read them. */
  readBytes: number | null;
  writtenBytes: number | null;
  openFiles: number | null;
}

/** Kernel threads are children of this one. */
const KERNEL_PARENT = 2;
const PAGE_BYTES = 4096;

/** Reads a process; null where it has ended, or is a thread of the kernel. @param bootMs when the machine started, epoch milliseconds */
export function readProcess(files: ProcFiles, pid: number, bootMs: number): ProcessReading | null {
  const stat = files.read(`${pid}/stat`);
  if (stat === null) return null;
  // The name is in parentheses, and may hold any of them itself.
  const name = stat.slice(stat.indexOf('(') + 1, stat.lastIndexOf(')'));
  const fields = stat
    .slice(stat.lastIndexOf(')') + 2)
    .split(' ')
    .map(Number);
  // Fields are numbered from 3 on behind the name (proc(5), /proc/pid/stat).
  const field = (number: number): number => fields[number - 3];
  const parentPid = field(4);
  if (parentPid === KERNEL_PARENT || pid === KERNEL_PARENT) return null;
  const io = numbersIn(files.read(`${pid}/io`));
  const open = files.list(`${pid}/fd`).length;
  return {
    pid,
    parentPid,
    name,
    commandLine: (files.read(`${pid}/cmdline`) ?? '').split('\0').filter(Boolean).join(' ') || name,
    owner: ownerOf(files.read(`${pid}/status`)),
    startedMs: Math.round(bootMs + (field(22) / TICKS) * 1000),
    userS: field(14) / TICKS,
    systemS: field(15) / TICKS,
    residentBytes: field(24) * PAGE_BYTES,
    threads: field(20),
    readBytes: io.get('read_bytes') ?? null,
    writtenBytes: io.get('write_bytes') ?? null,
    openFiles: open > 0 ? open : null
  };
}

/** The name of a user by `/etc/passwd`, else the number. */
function ownerOf(status: string | null): string {
  const uid = /^Uid:\s+(\d+)/m.exec(status ?? '')?.[1];
  return uid === undefined ? '' : (userNames().get(uid) ?? uid);
}

let names: Map<string, string> | undefined;
function userNames(): Map<string, string> {
  if (!names) {
    names = new Map();
    try {
      for (const line of readFileSync('/etc/passwd', 'utf8').split('\n')) {
        const [name, , uid] = line.split(':');
        if (uid) names.set(uid, name);
      }
    } catch {
      // Numbers then.
    }
  }
  return names;
}

/**
 * What is told of a process.
 * @param host what names its host
 * @param waitedS seconds its threads were ready to run and waited for a core; null where the kernel does not count that
 */
export function processTold(of: ProcessReading, host: Told['resource'], waitedS: number | null): Told {
  const told = (name: string, unit: string, value: number | null, attributes = {}): Measure[] =>
    value === null ? [] : [growing(name, unit, value, attributes)];
  return {
    resource: {
      ...host,
      'process.pid': of.pid,
      'process.parent_pid': of.parentPid,
      'process.executable.name': of.name,
      'process.command_line': of.commandLine,
      ...(of.owner && { 'process.owner': of.owner }),
      'process.creation.time': new Date(of.startedMs).toISOString()
    },
    sinceMs: of.startedMs,
    measures: [
      growing('process.cpu.time', 's', of.userS, { 'cpu.mode': 'user' }),
      growing('process.cpu.time', 's', of.systemS, { 'cpu.mode': 'system' }),
      ...told('tromix.process.core_wait.time', 's', waitedS),
      standing('process.memory.usage', 'By', of.residentBytes),
      standing('process.thread.count', '{thread}', of.threads),
      ...told('process.disk.io', 'By', of.readBytes, { 'disk.io.direction': 'read' }),
      ...told('process.disk.io', 'By', of.writtenBytes, { 'disk.io.direction': 'write' }),
      ...(of.openFiles === null
        ? []
        : [standing('process.unix.file_descriptor.count', '{file_descriptor}', of.openFiles)])
    ]
  };
}
