/**
 * The hosts of Quillhaven are invented: all its services run on one machine. This stands in for what `tromix host` would send from each of them: what a
 * host of two cores would tell while its services work as they do, and on one host a neighbour that serves nobody.
 */

/** A process that runs on an invented host, epoch milliseconds. */
export interface HostedProcess {
  host: string;
  service: string;
  pid: number;
  fromMs: number;
  toMs: number;
}

/** The neighbour replays old tides on the slow host: it takes the cores and the disk that manifests needs there. */
export const NEIGHBOUR = { host: 'quay-4', name: 'tide-replay', pid: 8810, owner: 'ops' } as const;
/** It works for so long, then rests, milliseconds. */
const WORKS_MS = 9 * 60_000;
const CYCLE_MS = 14 * 60_000;

const CORES = 2;
const GIB = 2 ** 30;
const STEP_MS = 10_000;
/** What every host runs besides. */
const OTHERS = [
  {
    name: 'postmaster',
    pid: 611,
    owner: 'postgres',
    cores: 0.02,
    bytes: 96e6,
    threads: 9,
    files: 112,
    writes: 180e3
  },
  { name: 'sshd', pid: 402, owner: 'root', cores: 0.0004, bytes: 8e6, threads: 1, files: 7, writes: 0 }
];

/** A number from 0 to 1 that is the same for the same place and moment. */
function chance(...of: (string | number)[]): number {
  let hash = 2_166_136_261;
  for (const character of of.join(' ')) hash = Math.imul(hash ^ character.charCodeAt(0), 16_777_619);
  hash = Math.imul(hash ^ (hash >>> 15), 2_246_822_507);
  return ((hash ^ (hash >>> 13)) >>> 0) / 2 ** 32;
}

/** Whether the neighbour works. @param beginMs when its first cycle begins, epoch milliseconds */
export const neighbourWorks = (atMs: number, beginMs: number): boolean =>
  atMs >= beginMs && (atMs - beginMs) % CYCLE_MS < WORKS_MS;

/** What has been added up of a host or a process so far. */
type Sums = Map<string, number>;

interface Point {
  name: string;
  unit: string;
  attributes: Record<string, string>;
  value: number;
  grows: boolean;
}

/** Hosts that go on from moment to moment. */
export class HostStandIn {
  readonly #hosts: readonly string[];
  readonly #beginMs: number;
  readonly #sums = new Map<string, Sums>();
  #lastMs: number;

  /** @param beginMs when the hosts and the neighbour begin, epoch milliseconds */
  constructor(hosts: readonly string[], beginMs: number) {
    this.#hosts = [...new Set(hosts)];
    this.#beginMs = beginMs;
    this.#lastMs = beginMs - STEP_MS;
  }

  /** One reading of every host as an OTLP request in JSON. @param processes those that run then */
  readAt(atMs: number, processes: readonly HostedProcess[]): object {
    const seconds = (atMs - this.#lastMs) / 1000;
    this.#lastMs = atMs;
    return {
      resourceMetrics: this.#hosts.flatMap((host) =>
        this.#host(
          host,
          atMs,
          seconds,
          processes.filter((one) => one.host === host && one.fromMs <= atMs && atMs <= one.toMs)
        )
      )
    };
  }

  #host(host: string, atMs: number, seconds: number, processes: readonly HostedProcess[]): object[] {
    const isHeld = host === NEIGHBOUR.host && neighbourWorks(atMs, this.#beginMs);
    const near = (value: number, of: string): number => value * (0.85 + 0.3 * chance(host, of, atMs));
    const serving = processes.map(({ service, pid }) => ({
      name: 'node',
      pid,
      owner: 'quill',
      command: `node ${service}/service.ts`,
      // Four cores' worth of wishes on two: what runs waits as well.
      cores: near(isHeld ? 0.2 : 0.22, service),
      waits: near(isHeld ? 0.38 : 0.004, `${service} waits`),
      bytes: 140e6 + 30e6 * chance(service, pid) + 4e6 * chance(service, atMs),
      threads: 11,
      files: 38,
      reads: near(isHeld ? 3e6 : 40e3, `${service} reads`),
      writes: near(60e3, `${service} writes`)
    }));
    const neighbour = {
      ...NEIGHBOUR,
      command: 'tide-replay --from archive --all',
      cores: near(1.66, 'replay'),
      waits: near(0.2, 'replay waits'),
      bytes: 212e6,
      threads: 4,
      files: 19,
      reads: near(1.1e6, 'replay reads'),
      writes: near(30e6, 'replay writes')
    };
    const others = OTHERS.map((one) => ({
      ...one,
      command: one.name,
      cores: near(one.cores, one.name),
      waits: near(isHeld ? 0.02 : 0.001, one.name),
      reads: near(2e3, one.name)
    }));
    const all = [...serving, ...(isHeld ? [neighbour] : []), ...others];
    const used = Math.min(
      CORES * 0.985,
      all.reduce((sum, { cores }) => sum + cores, 0) + near(0.03, 'system')
    );
    const grown = this.#grown(host, seconds);
    const { read, written } = all.reduce(
      (sum, { reads, writes }) => ({ read: sum.read + reads, written: sum.written + writes }),
      { read: 0, written: 0 }
    );
    const told: Point[] = [
      ...Object.entries({ user: used * 0.84, system: used * 0.16, iowait: isHeld ? 0.01 : 0.02 }).map(
        ([mode, cores]) => grown('system.cpu.time', 's', cores, { 'cpu.mode': mode })
      ),
      grown('system.cpu.time', 's', Math.max(0, CORES - used - 0.02), { 'cpu.mode': 'idle' }),
      stands('system.cpu.logical.count', '{cpu}', CORES),
      stands('system.memory.limit', 'By', 8 * GIB),
      ...Object.entries({ used: near(2.6e9, 'memory'), cached: 3.1e9, free: 2.4e9 }).map(([state, value]) =>
        stands('system.memory.usage', 'By', Math.round(value), { 'system.memory.state': state })
      ),
      grown('system.disk.io', 'By', read, { 'system.device': 'sda', 'disk.io.direction': 'read' }),
      grown('system.disk.io', 'By', written, { 'system.device': 'sda', 'disk.io.direction': 'write' }),
      grown('system.disk.io_time', 's', Math.min(0.97, near(isHeld ? 0.78 : 0.04, 'disk')), {
        'system.device': 'sda'
      }),
      grown('system.network.io', 'By', near(90e3, 'in'), {
        'network.interface.name': 'eth0',
        'network.io.direction': 'receive'
      }),
      grown('system.network.io', 'By', near(240e3, 'out'), {
        'network.interface.name': 'eth0',
        'network.io.direction': 'transmit'
      }),
      stands('system.filesystem.limit', 'By', 40e9, { 'system.filesystem.mountpoint': '/' }),
      stands('system.filesystem.usage', 'By', 17e9 + 1e6 * ((atMs - this.#beginMs) / 60_000), {
        'system.filesystem.mountpoint': '/',
        'system.filesystem.state': 'used'
      })
    ];
    const named = { 'host.name': host, 'host.id': `quillhaven-${host}`, 'os.type': 'linux' };
    return [
      this.#resource(named, told, atMs),
      ...all.map(({ name, pid, owner, command, cores, waits, bytes, threads, files, reads, writes }) => {
        const by = this.#grown(`${host} ${pid}`, seconds);
        return this.#resource(
          {
            ...named,
            'process.pid': pid,
            'process.executable.name': name,
            'process.command_line': command,
            'process.owner': owner
          },
          [
            by('process.cpu.time', 's', cores * 0.93, { 'cpu.mode': 'user' }),
            by('process.cpu.time', 's', cores * 0.07, { 'cpu.mode': 'system' }),
            by('tromix.process.core_wait.time', 's', waits),
            stands('process.memory.usage', 'By', Math.round(bytes)),
            stands('process.thread.count', '{thread}', threads),
            by('process.disk.io', 'By', reads, { 'disk.io.direction': 'read' }),
            by('process.disk.io', 'By', writes, { 'disk.io.direction': 'write' }),
            stands('process.unix.file_descriptor.count', '{file_descriptor}', files)
          ],
          atMs
        );
      })
    ];
  }

  /** Adds so much a second to what has been added up. */
  #grown(of: string, seconds: number) {
    const sums = this.#sums.get(of) ?? new Map<string, number>();
    this.#sums.set(of, sums);
    return (
      name: string,
      unit: string,
      perSecond: number,
      attributes: Record<string, string> = {}
    ): Point => {
      const key = `${name} ${Object.values(attributes).join(' ')}`;
      const value = (sums.get(key) ?? 0) + perSecond * seconds;
      sums.set(key, value);
      return {
        name,
        unit,
        attributes,
        value: unit === 's' ? Math.round(value * 100) / 100 : Math.round(value),
        grows: true
      };
    };
  }

  #resource(attributes: Record<string, string | number>, points: readonly Point[], atMs: number): object {
    const pairs = (of: Record<string, string | number>): object[] =>
      Object.entries(of).map(([key, value]) => ({
        key,
        value: typeof value === 'number' ? { intValue: String(value) } : { stringValue: value }
      }));
    const metrics = points.map(({ name, unit, attributes: of, value, grows }) => {
      const dataPoints = [{ attributes: pairs(of), timeUnixNano: `${atMs}000000`, asDouble: value }];
      return grows
        ? { name, unit, sum: { aggregationTemporality: 2, isMonotonic: true, dataPoints } }
        : { name, unit, gauge: { dataPoints } };
    });
    return { resource: { attributes: pairs(attributes) }, scopeMetrics: [{ metrics }] };
  }
}

const stands = (
  name: string,
  unit: string,
  value: number,
  attributes: Record<string, string> = {}
): Point => ({
  name,
  unit,
  attributes,
  value,
  grows: false
});
