import { lineOf, MEASURES, STRIP_NAMES, type MeasureKey } from '@tromix/core/counters/strips';
import {
  busyStretch,
  timesOf,
  type HostContext,
  type HostFileSystem,
  type HostFinding,
  type HostLoop,
  type HostPool,
  type HostProcess,
  type SlowerHere
} from '@tromix/core/findings/host-finding';
import { groupBy } from '@tromix/core/group-by';
import { findOnHost, type HostRule } from '@tromix/core/findings/host-rules';
import type { Scope, TimeWindow } from '$lib/scope';
import { ratesIn, seriesOf, type StoredSeries } from '../../counters';
import { binnedSeries, msOf, stepFor } from '../hosts';
import { Serving, servingProcesses } from '../serving-processes';
import { devicesOf, type HostDevice } from './devices';
import { fileSystemsOf } from './file-systems';
import { memoriesOf } from './memories';
import { gaugeOf, sumLine, sumOfMeans, toldSeconds, type Bin, type Over } from './over-bins';
import { POOL_NAMES } from './pool-kinds';
import { poolWaiters, type PoolWaiter } from './pool-waiters';
import { poolsOf } from './pools';
import { PROCESS_NAMES, processesOf } from './processes';
import { slowerHere } from './slower-here';

/** Everything that is known of one host over a window. */
export interface OneHost {
  host: string;
  cores: number | null;
  limits: { cores: number | null; memoryBytes: number | null };
  memoryBytes: { used: number | null; limit: number | null };
  processes: HostProcess[];
  pools: HostPool[];
  waiters: PoolWaiter[];
  disks: HostDevice[];
  interfaces: HostDevice[];
  fileSystems: Omit<HostFileSystem, 'trend'>[];
  findings: HostFinding<HostRule>[];
  slower: SlowerHere[];
}

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

/** The event loops of its processes. */
function loopsOf(series: readonly StoredSeries[], of: Bin, serving: Serving): HostLoop[] {
  const bySource = groupBy(series, ({ source }) => source.id);
  return [...bySource.values()].flatMap((told) => {
    const line = lineOf(
      'loop',
      told.map((one) => binnedSeries(one, of(one)))
    );
    const [{ source }] = told;
    return line ? [{ service: serving.serviceOf(source), pid: source.pid, line }] : [];
  });
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
  const series = await seriesOf({ names: [...new Set(names)], hosts: [host], sinceMs: times.fromMs });
  const [bins, served, fileSystems, slower, waiters] = await Promise.all([
    ratesIn(series, times, stepMs),
    servingProcesses(host),
    fileSystemsOf(series, times),
    slowerHere(scope, window, nowMs, host),
    poolWaiters(scope, window, host)
  ]);
  const serving = new Serving(
    served,
    series.map(({ source }) => source)
  );
  const of: Bin = ({ id }) => bins.get(id);
  const first = bins.values().next().value;
  const length = first?.weight.length ?? 0;
  const overAll: Over = { of, from: 0, to: length, seconds: toldSeconds(series, of, 0, length) };
  const pools = await poolsOf(series, overAll, host, times, stepMs);
  const binned = series.map((one) => binnedSeries(one, of(one)));
  const cpu = lineOf('cpu', binned);
  const busy = busyStretch(cpu);
  const busyTimes = busy && timesOf({ fromMs: first?.fromMs ?? 0, stepMs }, busy);
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
    loops: loopsOf(series, of, serving),
    memories: await memoriesOf(series, overAll, serving, {
      fromMs: first?.fromMs ?? 0,
      stepMs,
      bins: length
    }),
    slowerWhileBusy: busyTimes
      ? await slowerHere(scope, { fromUs: busyTimes.fromMs * 1000, toUs: busyTimes.toMs * 1000 }, nowMs, host)
      : []
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
    waiters,
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
