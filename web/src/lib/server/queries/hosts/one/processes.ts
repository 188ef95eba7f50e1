import type { HostProcess } from '@tromix/core/findings/host-finding';
import { groupBy } from '@tromix/core/group-by';
import type { StoredSeries } from '../../counters';
import { processKey } from '../hosts';
import type { Served, Serving } from '../serving-processes';
import { sumOfMeans, type Over } from './over-bins';

/** What is read of processes. */
export const PROCESS_NAMES = [
  'process.cpu.time',
  'process.cpu.utilization',
  'tromix.process.core_wait.time',
  'process.memory.usage',
  'process.thread.count',
  'process.disk.io',
  'process.unix.file_descriptor.count',
  'process.open_file_descriptor.count'
];

/** Processes, those that use most of the cores first. A host and a process may both tell of it: what either tells is taken. */
export function processesOf(series: readonly StoredSeries[], over: Over, serving: Serving): HostProcess[] {
  const own = series.filter(({ source, name }) => source.pid > 0 && PROCESS_NAMES.includes(name));
  return [...groupBy(own, ({ source }) => processKey(source)).values()]
    .map((list): HostProcess => processIn(list, over, serving.of(list[0].source)))
    .sort((a, b) => (b.cores ?? -1) - (a.cores ?? -1) || (b.memoryBytes ?? 0) - (a.memoryBytes ?? 0));
}

function processIn(list: readonly StoredSeries[], over: Over, serves: Served | null): HostProcess {
  const told = (name: string): string => {
    for (const { source } of list) {
      const value = source.attributes.get(name);
      if (value !== undefined && value !== null && value !== '') return String(value);
    }
    return '';
  };
  const sum = (name: string, state = '', attribute = ''): number | null => {
    const named = list.filter(
      (one) => one.name === name && (!state || one.attributes.get(attribute) === state)
    );
    // The newest start of a number counts, and of two who tell of it one.
    const [first] = named.toSorted((a, b) => b.lastMs - a.lastMs || a.source.id - b.source.id);
    return sumOfMeans(first ? named.filter(({ source }) => source.id === first.source.id) : [], over);
  };
  const cpu = (mode: string): number | null =>
    sum('process.cpu.time', mode, 'cpu.mode') ?? sum('process.cpu.time', mode, 'process.cpu.state');
  const [user, system] = [cpu('user'), cpu('system')];
  const started = Date.parse(told('process.creation.time'));
  const parent = Number(told('process.parent_pid'));
  return {
    pid: list[0].source.pid,
    name: told('process.executable.name') || (serves?.service ?? 'a process'),
    commandLine: told('process.command_line') || told('process.command'),
    owner: told('process.owner'),
    parentPid: parent > 0 ? parent : null,
    startedMs: Number.isFinite(started) ? started : null,
    service: serves?.service ?? '',
    release: serves?.release ?? '',
    cores: user !== null || system !== null ? (user ?? 0) + (system ?? 0) : sum('process.cpu.utilization'),
    userCores: user,
    systemCores: system,
    waits: sum('tromix.process.core_wait.time'),
    memoryBytes: sum('process.memory.usage'),
    threads: sum('process.thread.count'),
    reads: sum('process.disk.io', 'read', 'disk.io.direction'),
    writes: sum('process.disk.io', 'write', 'disk.io.direction'),
    openFiles: sum('process.unix.file_descriptor.count') ?? sum('process.open_file_descriptor.count')
  };
}
