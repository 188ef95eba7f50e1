import { readFileSync } from 'node:fs';
import { growing, standing, type Measure } from './measures';
import { numbersIn, TICKS, type ProcFiles } from './proc-files';

/** Columns of the first line of `/proc/stat` by the names semantic conventions have for them (proc(5)). */
const MODES = ['user', 'nice', 'system', 'idle', 'iowait', 'interrupt', 'interrupt', 'steal'] as const;

/** Processor time of all cores by what it went to. */
export function processorMeasures(files: ProcFiles): Measure[] {
  const stat = files.read('stat') ?? '';
  const [, first = ''] = /^cpu\s+(.*)$/m.exec(stat) ?? [];
  const seconds = new Map<string, number>();
  first
    .split(' ')
    .slice(0, MODES.length)
    .forEach((ticks, i) => seconds.set(MODES[i], (seconds.get(MODES[i]) ?? 0) + Number(ticks) / TICKS));
  const cores = stat.match(/^cpu\d+/gm)?.length ?? 0;
  return [
    ...[...seconds].map(([mode, value]) => growing('system.cpu.time', 's', value, { 'cpu.mode': mode })),
    standing('system.cpu.logical.count', '{cpu}', cores)
  ];
}

/** When the machine started, epoch milliseconds; 0 where it is not told. */
export const bootOf = (files: ProcFiles): number => (numbersIn(files.read('stat')).get('btime') ?? 0) * 1000;

const KIB = 1024;

/** Memory as `/proc/meminfo` has it: what is cached can be had again. */
export function memoryMeasures(files: ProcFiles): Measure[] {
  const kib = numbersIn(files.read('meminfo'));
  const of = (name: string): number => (kib.get(name) ?? 0) * KIB;
  if (!kib.has('MemTotal')) return [];
  const cached = of('Cached') + of('SReclaimable') - of('Shmem');
  const usage = { free: of('MemFree'), cached, buffers: of('Buffers') };
  const used = of('MemTotal') - usage.free - usage.cached - usage.buffers;
  const paging = numbersIn(files.read('vmstat'));
  return [
    standing('system.memory.limit', 'By', of('MemTotal')),
    ...Object.entries({ used, ...usage }).map(([state, value]) =>
      standing('system.memory.usage', 'By', value, { 'system.memory.state': state })
    ),
    standing('system.paging.usage', 'By', of('SwapTotal') - of('SwapFree'), {
      'system.paging.state': 'used'
    }),
    standing('system.paging.usage', 'By', of('SwapFree'), { 'system.paging.state': 'free' }),
    ...(['in', 'out'] as const).map((direction) =>
      growing('system.paging.operations', '{operation}', paging.get(`pswp${direction}`) ?? 0, {
        'system.paging.direction': direction,
        'system.paging.fault.type': 'major'
      })
    )
  ];
}

const SECTOR_BYTES = 512;
/** Whole disks, not their parts, nor what lies in memory or in files (common practice). */
const DISK = /^(?:[shv]d[a-z]+|xvd[a-z]+|nvme\d+n\d+|mmcblk\d+)$/;

/** Disks as `/proc/diskstats` has them (Linux, Documentation/admin-guide/iostats.rst). */
export function diskMeasures(files: ProcFiles): Measure[] {
  return (files.read('diskstats') ?? '').split('\n').flatMap((line) => {
    const [, , device = '', ...rest] = line.trim().split(/\s+/);
    if (!DISK.test(device)) return [];
    const [reads, , sectorsRead, , writes, , sectorsWritten, , , busyMs] = rest.map(Number);
    const both = (name: string, unit: string, read: number, write: number): Measure[] => [
      growing(name, unit, read, { 'system.device': device, 'disk.io.direction': 'read' }),
      growing(name, unit, write, { 'system.device': device, 'disk.io.direction': 'write' })
    ];
    return [
      ...both('system.disk.io', 'By', sectorsRead * SECTOR_BYTES, sectorsWritten * SECTOR_BYTES),
      ...both('system.disk.operations', '{operation}', reads, writes),
      growing('system.disk.io_time', 's', busyMs / 1000, { 'system.device': device })
    ];
  });
}

/** Limits of the container this runs in, by control groups of either version; nothing where there are none. */
export function containerMeasures(root = '/sys/fs/cgroup'): Measure[] {
  const read = (file: string): string => {
    try {
      return readFileSync(`${root}/${file}`, 'utf8').trim();
    } catch {
      return '';
    }
  };
  const [quota, period] = read('cpu.max').split(' ');
  const first = [Number(read('cpu/cpu.cfs_quota_us')), Number(read('cpu/cpu.cfs_period_us'))];
  const cores = Number(quota) / Number(period) || (first[0] > 0 ? first[0] / first[1] : NaN);
  const limit = Number(read('memory.max') || read('memory/memory.limit_in_bytes') || NaN);
  const throttledUs = numbersIn(read('cpu.stat')).get('throttled_usec');
  return [
    ...(cores > 0 ? [standing('tromix.container.cpu.limit', '{cpu}', cores)] : []),
    // Version 1 writes a number near 2^63 where there is no limit.
    ...(limit > 0 && limit < 2 ** 60 ? [standing('tromix.container.memory.limit', 'By', limit)] : []),
    ...(throttledUs === undefined
      ? []
      : [growing('tromix.container.cpu.throttled.time', 's', throttledUs / 1e6)])
  ];
}
