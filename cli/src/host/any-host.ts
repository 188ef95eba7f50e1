import os from 'node:os';
import si from 'systeminformation';
import { growing, standing, type Measure, type Told } from './measures';

// What Node.js and the system-information package tell on every system.

/** Network interfaces and file systems. */
export async function networkAndFiles(): Promise<Measure[]> {
  const [interfaces, fileSystems] = await Promise.all([si.networkStats('*'), si.fsSize()]);
  const network = interfaces
    .filter(({ iface }) => iface !== 'lo')
    .flatMap(({ iface, rx_bytes, tx_bytes, rx_errors, tx_errors }) => {
      const both = (name: string, unit: string, received: number, sent: number): Measure[] => [
        growing(name, unit, received, { 'network.interface.name': iface, 'network.io.direction': 'receive' }),
        growing(name, unit, sent, { 'network.interface.name': iface, 'network.io.direction': 'transmit' })
      ];
      return [
        ...both('system.network.io', 'By', rx_bytes, tx_bytes),
        ...both('system.network.errors', '{error}', rx_errors, tx_errors)
      ];
    });
  const files = fileSystems.flatMap(({ fs, mount, size, used, available }) => {
    const where = { 'system.device': fs, 'system.filesystem.mountpoint': mount };
    return [
      standing('system.filesystem.limit', 'By', size, where),
      standing('system.filesystem.usage', 'By', used, { ...where, 'system.filesystem.state': 'used' }),
      standing('system.filesystem.usage', 'By', available, { ...where, 'system.filesystem.state': 'free' })
    ];
  });
  return [...network, ...files];
}

/** Processors and memory where there is no `proc` file system. */
export async function processorsAndMemory(): Promise<Measure[]> {
  const cores = os.cpus();
  const { total, used, free, swapused, swapfree } = await si.mem();
  const seconds = (mode: keyof os.CpuInfo['times']): number =>
    cores.reduce((sum, { times }) => sum + times[mode], 0) / 1000;
  return [
    growing('system.cpu.time', 's', seconds('user'), { 'cpu.mode': 'user' }),
    growing('system.cpu.time', 's', seconds('nice'), { 'cpu.mode': 'nice' }),
    growing('system.cpu.time', 's', seconds('sys'), { 'cpu.mode': 'system' }),
    growing('system.cpu.time', 's', seconds('idle'), { 'cpu.mode': 'idle' }),
    growing('system.cpu.time', 's', seconds('irq'), { 'cpu.mode': 'interrupt' }),
    standing('system.cpu.logical.count', '{cpu}', cores.length),
    standing('system.memory.limit', 'By', total),
    standing('system.memory.usage', 'By', used, { 'system.memory.state': 'used' }),
    standing('system.memory.usage', 'By', free, { 'system.memory.state': 'free' }),
    standing('system.paging.usage', 'By', swapused, { 'system.paging.state': 'used' }),
    standing('system.paging.usage', 'By', swapfree, { 'system.paging.state': 'free' })
  ];
}

/** The processes that use most where there is no `proc` file system: their share of the processors is all that is told there. */
export async function topProcesses(host: Told['resource'], most: number): Promise<Told[]> {
  const cores = os.cpus().length;
  const { list } = await si.processes();
  return list
    .toSorted((a, b) => b.cpu - a.cpu || b.memRss - a.memRss)
    .slice(0, most)
    .map(({ pid, parentPid, name, command, params, user, cpu, memRss, started }) => ({
      resource: {
        ...host,
        'process.pid': pid,
        'process.parent_pid': parentPid,
        'process.executable.name': name,
        'process.command_line': `${command} ${params}`.trim(),
        ...(user && { 'process.owner': user })
      },
      sinceMs: Date.parse(started) || 0,
      measures: [
        standing('process.cpu.utilization', '1', (cpu / 100) * cores),
        standing('process.memory.usage', 'By', memRss * 1024)
      ]
    }));
}
