import { isRate, meanIn, type Bins } from '@tromix/core/counters/bins';
import { histogramQuantile, merged, type Distribution } from '@tromix/core/counters/histograms';
import { lineOf, MEASURES, STRIP_NAMES, type Line, type MeasureKey } from '@tromix/core/counters/strips';
import type {
  HostContext,
  HostFileSystem,
  HostFinding,
  HostMemory,
  HostPool,
  HostProcess,
  SlowerHere
} from '@tromix/core/findings/host-finding';
import { findOnHost, type HostRule } from '@tromix/core/findings/host-rules';
import { groupBy } from '@tromix/core/group-by';
import { NO_PICKS, type Scope, type TimeWindow } from '$lib/scope';
import { binsOf, distributionsIn, seriesOf, type MsWindow, type StoredSeries } from './counters';
import { binnedSeries, isNamed, msOf, processKey, stepFor } from './hosts';
import { endpointsById, namesById } from './names-by-id';
import { totalsIn } from './rollups';
import { underWayOn, type BinGrid } from './under-way';
import { byProcess, processOf, servingProcesses, type ServingProcess } from './serving-processes';

/** A disk or a network interface over the window: bytes a second in and out, and how busy; null for what is not told. */
export interface HostDevice {
  name: string;
  inBytes: number | null;
  outBytes: number | null;
  /** Share of the time; null for a network interface. */
  busy: number | null;
  /** Errors a second. */
  errors: number | null;
}

/** Everything that is known of one host over a window. */
export interface OneHost {
  host: string;
  cores: number | null;
  limits: { cores: number | null; memoryBytes: number | null };
  memoryBytes: { used: number | null; limit: number | null };
  processes: HostProcess[];
  pools: HostPool[];
  disks: HostDevice[];
  interfaces: HostDevice[];
  fileSystems: Omit<HostFileSystem, 'trend'>[];
  findings: HostFinding<HostRule>[];
  slower: SlowerHere[];
}

const PROCESS_NAMES = [
  'process.cpu.time',
  'process.cpu.utilization',
  'tromix.process.core_wait.time',
  'process.memory.usage',
  'process.thread.count',
  'process.disk.io',
  'process.unix.file_descriptor.count',
  'process.open_file_descriptor.count'
];
const HOST_NAMES = [
  'system.cpu.logical.count',
  'system.paging.operations',
  'system.disk.io',
  'system.network.io',
  'system.network.errors',
  'system.filesystem.usage',
  'system.filesystem.limit',
  'tromix.container.cpu.limit',
  'tromix.container.memory.limit'
];
const POOL_NAMES = [
  'db.client.connection.count',
  'db.client.connection.max',
  'db.client.connection.pending_requests',
  'db.client.connections.usage',
  'db.client.connections.max',
  'db.client.connections.pending_requests'
];
const POOL_WAITS = ['db.client.connection.wait_time', 'db.client.connections.wait_time'];
/** A trend is looked at over so many days. */
const TREND_MS = 7 * 86_400_000;
const HOUR_MS = 3_600_000;

type Bin = (series: StoredSeries) => Bins | undefined;

/** Bins that are looked at, and the seconds that rates are told of: a process that ran for a part of them used so much less of them. */
interface Over {
  of: Bin;
  from: number;
  to: number;
  seconds: number;
}

/** One host over a window: what ran on it, its disks, network and pools, and what the rules find. */
export async function hostOf(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  host: string
): Promise<OneHost> {
  const times = msOf(window);
  const stepMs = stepFor(times);
  const names = [...STRIP_NAMES, ...PROCESS_NAMES, ...HOST_NAMES, ...POOL_NAMES];
  const series = await seriesOf({ names: [...new Set(names)], host, sinceMs: times.fromMs });
  const [bins, processes, fileSystems, slower] = await Promise.all([
    binsOf(series, times, stepMs),
    servingProcesses(host),
    fileSystemsOf(series, times),
    slowerHere(scope, window, nowMs, host)
  ]);
  // One that names a service, and of which no request came yet, is of it all the same.
  const serving = new Map([
    ...series
      .filter(({ source }) => isNamed(source.service))
      .map(({ source }) => [processOf(source), source] as const),
    ...byProcess(processes)
  ]);
  const of: Bin = ({ id }) => bins.get(id);
  const first = bins.values().next().value;
  const length = first?.weight.length ?? 0;
  const overAll: Over = { of, from: 0, to: length, seconds: toldSeconds(series, of, 0, length) };
  const pools = await poolsOf(series, overAll, host, times, stepMs);
  const binned = series.map((one) => binnedSeries(one, of(one)));
  const context: HostContext = {
    host,
    cores: gaugeOf(series, overAll, 'system.cpu.logical.count'),
    fromMs: first?.fromMs ?? times.fromMs,
    stepMs,
    bins: length,
    lines: Object.fromEntries(
      (Object.keys(MEASURES) as MeasureKey[]).map((measure) => [measure, lineOf(measure, binned)])
    ),
    swapping: sumLine(
      series.filter(({ name }) => name === 'system.paging.operations'),
      of
    ),
    processesIn: ([from, to]) =>
      processesOf(series, { of, from, to, seconds: toldSeconds(series, of, from, to) }, serving),
    fileSystems,
    pools,
    memories: await memoriesOf(series, overAll, serving, {
      fromMs: first?.fromMs ?? 0,
      stepMs,
      bins: length
    }),
    slower
  };
  const used = series.filter(
    ({ name, attributes }) =>
      name === 'system.memory.usage' &&
      (attributes.get('system.memory.state') ?? attributes.get('state')) === 'used'
  );
  return {
    host,
    cores: context.cores,
    limits: {
      cores: gaugeOf(series, overAll, 'tromix.container.cpu.limit'),
      memoryBytes: gaugeOf(series, overAll, 'tromix.container.memory.limit')
    },
    memoryBytes: { used: sumOfMeans(used, overAll), limit: gaugeOf(series, overAll, 'system.memory.limit') },
    processes: [...context.processesIn([0, length])],
    pools,
    disks: devicesOf(series, overAll, 'system.disk', ['read', 'write'], 'system.device'),
    interfaces: devicesOf(
      series,
      overAll,
      'system.network',
      ['receive', 'transmit'],
      'network.interface.name'
    ),
    fileSystems: fileSystems.map(({ trend: _, ...rest }) => rest),
    findings: findOnHost(context),
    slower
  };
}

/** The mean of a series over some bins: of a rate over all of their time, else over what is known; null where nothing is. */
function meanOver(series: StoredSeries, { of, from, to, seconds }: Over): number | null {
  const bins = of(series);
  if (!bins) return null;
  let weight = 0;
  let sum = 0;
  for (let i = from; i < Math.min(to, bins.weight.length); i++) {
    weight += bins.weight[i];
    sum += bins.sum[i];
  }
  if (weight === 0) return null;
  return isRate(series) ? sum / Math.max(seconds, weight) : sum / weight;
}

function sumOfMeans(series: readonly StoredSeries[], over: Over): number | null {
  const known = series.map((one) => meanOver(one, over)).filter((mean) => mean !== null);
  return known.length === 0 ? null : known.reduce((sum, mean) => sum + mean, 0);
}

/** Seconds of some bins in which anything is told of a host. */
function toldSeconds(series: readonly StoredSeries[], of: Bin, from: number, to: number): number {
  const seconds = series.filter(isRate).map((one) => {
    const weights = of(one)?.weight ?? new Float64Array();
    return weights.slice(from, to).reduce((sum, part) => sum + part, 0);
  });
  return Math.max(0, ...seconds);
}

const gaugeOf = (series: readonly StoredSeries[], over: Over, name: string): number | null => {
  const [one] = series.filter((candidate) => candidate.name === name);
  return one ? meanOver(one, over) : null;
};

function sumLine(series: readonly StoredSeries[], of: Bin): Line | null {
  if (series.length === 0) return null;
  const bins = series.map(of).filter((one) => one !== undefined);
  return Array.from({ length: bins[0]?.weight.length ?? 0 }, (_, bin) => {
    const known = bins.map((one) => meanIn(one, bin)).filter((mean) => mean !== null);
    return known.length === 0 ? null : known.reduce((sum, mean) => sum + mean, 0);
  });
}

/** Processes, those that use most of the cores first. A host and a process may both tell of it: what either tells is taken. */
function processesOf(
  series: readonly StoredSeries[],
  over: Over,
  serving: ReadonlyMap<string, ServingProcess>
): HostProcess[] {
  const own = series.filter(({ source, name }) => source.pid > 0 && PROCESS_NAMES.includes(name));
  return [...groupBy(own, ({ source }) => processKey(source)).values()]
    .map((list): HostProcess => processIn(list, over, serving.get(processOf(list[0].source))))
    .sort((a, b) => (b.cores ?? -1) - (a.cores ?? -1) || (b.memoryBytes ?? 0) - (a.memoryBytes ?? 0));
}

function processIn(
  list: readonly StoredSeries[],
  over: Over,
  serves: ServingProcess | undefined
): HostProcess {
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

function devicesOf(
  series: readonly StoredSeries[],
  over: Over,
  prefix: 'system.disk' | 'system.network',
  directions: readonly [string, string],
  attribute: string
): HostDevice[] {
  const all = series.filter(({ name }) => name.startsWith(`${prefix}.`));
  const nameOf = ({ attributes }: StoredSeries): string =>
    String(attributes.get(attribute) ?? attributes.get('device') ?? '');
  return [...groupBy(all, nameOf)].map(([name, list]): HostDevice => {
    const directed = (direction: string): number | null =>
      sumOfMeans(
        list.filter(
          (one) =>
            one.name === `${prefix}.io` &&
            [...one.attributes].some(([key, value]) => key.endsWith('direction') && value === direction)
        ),
        over
      );
    const only = (metric: string): number | null =>
      sumOfMeans(
        list.filter((one) => one.name === `${prefix}.${metric}`),
        over
      );
    return {
      name,
      inBytes: directed(directions[0]),
      outBytes: directed(directions[1]),
      busy: only('io_time'),
      errors: only('errors')
    };
  });
}

/** File systems with what was used over the last days. */
async function fileSystemsOf(series: readonly StoredSeries[], { toMs }: MsWindow): Promise<HostFileSystem[]> {
  const usage = series.filter(
    ({ name, attributes }) =>
      name === 'system.filesystem.usage' &&
      (attributes.get('system.filesystem.state') ?? attributes.get('state')) === 'used'
  );
  const limits = series.filter(({ name }) => name === 'system.filesystem.limit');
  const mountOf = ({ attributes }: StoredSeries): string =>
    String(attributes.get('system.filesystem.mountpoint') ?? attributes.get('mountpoint') ?? '');
  const bins = await binsOf([...usage, ...limits], { fromMs: toMs - TREND_MS, toMs }, HOUR_MS);
  return usage.flatMap((one): HostFileSystem[] => {
    const used = bins.get(one.id)!;
    const limit = limits.find(
      (other) => mountOf(other) === mountOf(one) && other.source.id === one.source.id
    );
    const limitBytes = limit ? lastMean(bins.get(limit.id)!) : null;
    const usedBytes = lastMean(used);
    if (limitBytes === null || usedBytes === null) return [];
    const known = [...used.weight.keys()].filter((bin) => used.weight[bin] > 0);
    return [
      {
        mount: mountOf(one),
        usedBytes,
        limitBytes,
        trend: {
          atMs: known.map((bin) => used.fromMs + bin * used.stepMs),
          usedBytes: known.map((bin) => meanIn(used, bin)!)
        }
      }
    ];
  });
}

function lastMean(bins: Bins): number | null {
  for (let bin = bins.weight.length - 1; bin >= 0; bin--) if (bins.weight[bin] > 0) return meanIn(bins, bin);
  return null;
}

/** Pools by their name and the process that holds them. */
async function poolsOf(
  series: readonly StoredSeries[],
  over: Over,
  host: string,
  times: MsWindow,
  stepMs: number
): Promise<HostPool[]> {
  const waits = await seriesOf({ names: POOL_WAITS, host, sinceMs: times.fromMs });
  const waited = await distributionsIn(waits, times, stepMs);
  const nameOf = ({ attributes }: StoredSeries): string =>
    String(attributes.get('db.client.connection.pool.name') ?? attributes.get('pool.name') ?? 'pool');
  const keyOf = (one: StoredSeries): string => `${one.source.id} ${nameOf(one)}`;
  const all = series.filter(({ name }) => POOL_NAMES.includes(name));
  return [...groupBy(all, keyOf)].map(([key, list]): HostPool => {
    const named = (...names: string[]): StoredSeries[] => list.filter(({ name }) => names.includes(name));
    const counts = named('db.client.connection.count', 'db.client.connections.usage');
    const used = counts.filter(
      ({ attributes }) => (attributes.get('db.client.connection.state') ?? attributes.get('state')) === 'used'
    );
    const pending = named('db.client.connection.pending_requests', 'db.client.connections.pending_requests');
    const mine = waits.filter((one) => keyOf(one) === key);
    return {
      name: nameOf(list[0]),
      service: list[0].source.service,
      size: sumOfMeans(named('db.client.connection.max', 'db.client.connections.max'), over),
      used: sumLine(used, over.of) ?? [],
      waiting: sumLine(pending, over.of) ?? [],
      waitedS: medianWait(
        mine,
        mine.flatMap(({ id }) => waited.get(id) ?? [])
      )
    };
  });
}

/** Memory of the processes of each service, and its requests under way. */
async function memoriesOf(
  series: readonly StoredSeries[],
  { of }: Over,
  serving: ReadonlyMap<string, Pick<ServingProcess, 'service'>>,
  grid: BinGrid
): Promise<HostMemory[]> {
  const memory = series.filter(({ name, source }) => name === 'process.memory.usage' && source.pid > 0);
  // Its host and it itself may tell of a process: one of them counts.
  const once = [...groupBy(memory, ({ source }) => processOf(source)).values()].map(([first]) => first);
  const byService = groupBy(once, ({ source }) => serving.get(processOf(source))?.service ?? '');
  byService.delete('');
  if (byService.size === 0) return [];
  const underWay = await underWayOn(series[0].source.host, grid);
  return [...byService].map(([service, list]) => ({
    service,
    bytes: sumLine(list, of) ?? [],
    underWay: underWay.get(service) ?? []
  }));
}

/** The median of what was waited, seconds; null where it is not told. */
function medianWait(series: readonly StoredSeries[], parts: readonly Distribution[]): number | null {
  const whole = parts.reduce<Distribution | null>(
    (sum, one) => (sum ? (merged(sum, one) ?? sum) : one),
    null
  );
  const median = whole && histogramQuantile(whole, 0.5);
  if (!median) return null;
  return series[0].unit === 'ms' ? median.value / 1000 : median.value;
}

/** Requests so few say nothing of a service on a host. */
const LEAST_REQUESTS = 20;
/** A service counts as slower here from so many times on. */
const LEAST_RATIO = 1.5;

/**
 * Services whose requests took longer on a host than on the others: what they took, of what as many requests of the same endpoints took elsewhere (indirect
 * standardisation), so that another mix of endpoints makes no difference.
 */
async function slowerHere(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  host: string
): Promise<SlowerHere[]> {
  const everywhere: Scope = { ...scope, ...NO_PICKS, host: '', endpoint: '' };
  const totals = await totalsIn(everywhere, window, nowMs, 'endpoint', 'host');
  const ids = [...totals.keys()].map((key) => key.split(' ').map(Number));
  const [endpoints, hosts] = await Promise.all([
    endpointsById(ids.map(([id]) => id)),
    namesById(
      'hosts',
      ids.map(([, id]) => id)
    )
  ]);
  const sums = new Map<string, { took: number; expected: number; requests: number }>();
  const byEndpoint = groupBy(totals, ([key]) => key.split(' ')[0]);
  for (const [endpoint, of] of byEndpoint) {
    const isHere = ([key]: (typeof of)[number]): boolean => hosts.get(Number(key.split(' ')[1])) === host;
    const here = of.filter(isHere);
    const elsewhere = of.filter((one) => !isHere(one));
    const count = (list: typeof of): number => list.reduce((sum, [, one]) => sum + one.count, 0);
    const total = (list: typeof of): number => list.reduce((sum, [, one]) => sum + one.totalNs, 0);
    if (count(here) === 0 || count(elsewhere) < LEAST_REQUESTS) continue;
    const service = endpoints.get(Number(endpoint))?.service;
    if (service === undefined) continue;
    const sum = sums.get(service) ?? { took: 0, expected: 0, requests: 0 };
    sum.took += total(here);
    sum.expected += (total(elsewhere) / count(elsewhere)) * count(here);
    sum.requests += count(here);
    sums.set(service, sum);
  }
  return [...sums]
    .map(([service, { took, expected, requests }]) => ({ service, ratio: took / expected, requests }))
    .filter(({ ratio, requests }) => ratio >= LEAST_RATIO && requests >= LEAST_REQUESTS)
    .sort((a, b) => b.ratio - a.ratio);
}
