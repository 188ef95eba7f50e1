import { groupBy } from '../group-by';
import type { Attributes } from '../trace/span';
import { meanIn, type Bins } from './bins';

/** Values over time, one a bin; null where nothing is known. */
export type Line = (number | null)[];

/** A series of a host or a process with its bins. */
export interface BinnedSeries {
  name: string;
  attributes: Attributes;
  bins: Bins;
}

/** What a value of a line is in. */
export type LineUnit = 'share' | 'bytes' | 'seconds' | 'count' | 'cores';

/** What is looked at of hosts, services and processes, and the least difference that matters (common practice). */
export const MEASURES = {
  cpu: { title: 'CPU', unit: 'share', least: 0.2 },
  cores: { title: 'CPU', unit: 'cores', least: 0.1 },
  memory: { title: 'memory', unit: 'share', least: 0.2 },
  resident: { title: 'memory', unit: 'bytes', least: 64 * 1024 * 1024 },
  disk: { title: 'disk, busy', unit: 'share', least: 0.2 },
  loop: { title: 'event loop, p99', unit: 'seconds', least: 0.01 },
  pauses: { title: 'collector', unit: 'share', least: 0.05 },
  waiting: { title: 'pool: waiting', unit: 'count', least: 1 }
} as const satisfies Record<string, { title: string; unit: LineUnit; least: number }>;
export type MeasureKey = keyof typeof MEASURES;

/** What is looked at of each kind of row, in the order of the columns. */
export const COLUMNS = {
  hosts: ['cpu', 'memory', 'disk', 'loop', 'waiting'],
  services: ['cores', 'resident', 'loop', 'pauses', 'waiting'],
  processes: ['cores', 'resident', 'loop', 'pauses', 'waiting']
} as const satisfies Record<string, readonly MeasureKey[]>;
export type RowKind = keyof typeof COLUMNS;

/** The names a measure is read from, by OpenTelemetry's semantic conventions, newer ones first. */
const SOURCES: Record<MeasureKey, readonly string[]> = {
  cpu: ['system.cpu.time', 'system.cpu.utilization'],
  cores: ['process.cpu.time', 'process.cpu.utilization'],
  memory: ['system.memory.usage', 'system.memory.limit', 'system.memory.utilization'],
  resident: ['process.memory.usage', 'process.memory.physical_usage'],
  disk: ['system.disk.io_time'],
  loop: ['nodejs.eventloop.delay.p99'],
  pauses: ['v8js.gc.duration', 'jvm.gc.duration'],
  waiting: ['db.client.connection.pending_requests', 'db.client.connections.pending_requests']
};
/** All names that strips are made of. */
export const STRIP_NAMES = [...new Set(Object.values(SOURCES).flat())];

/** A measure of one row over time, from the series of its host or its processes; null where none tells it. */
export function lineOf(measure: MeasureKey, series: readonly BinnedSeries[]): Line | null {
  const of = series.filter(({ name }) => SOURCES[measure].includes(name));
  if (of.length === 0) return null;
  const line = LINES[measure](of);
  return line.some((value) => value !== null) ? line : null;
}

const named = (series: readonly BinnedSeries[], name: string): BinnedSeries[] =>
  series.filter((one) => one.name === name);

/** The state or mode a series is of; older conventions call both `state`. */
const stateOf = ({ attributes }: BinnedSeries): string =>
  String(
    attributes.get('cpu.mode') ??
      attributes.get('system.cpu.state') ??
      attributes.get('system.memory.state') ??
      attributes.get('state') ??
      ''
  );

const lengthOf = (series: readonly BinnedSeries[]): number => series[0]?.bins.weight.length ?? 0;
const over = (series: readonly BinnedSeries[], at: (bin: number) => number | null): Line =>
  Array.from({ length: lengthOf(series) }, (_, bin) => at(bin));

/** The sum of the means of those that are known; null where none is. */
function sumIn(series: readonly BinnedSeries[], bin: number): number | null {
  let sum: number | null = null;
  for (const { bins } of series) {
    const mean = meanIn(bins, bin);
    if (mean !== null) sum = (sum ?? 0) + mean;
  }
  return sum;
}

/** The greatest of the greatest values. */
function mostIn(series: readonly BinnedSeries[], bin: number): number | null {
  const known = series.map(({ bins }) => bins.max[bin]).filter((value) => !Number.isNaN(value));
  return known.length > 0 ? Math.max(...known) : null;
}

/** Neither of them is work: a core that waits for a disk could do something else. */
const IDLE = new Set(['idle', 'iowait', 'wait']);

/** Of the time of all cores what was not idle. */
function cpuShare(series: readonly BinnedSeries[]): Line {
  const times = named(series, 'system.cpu.time');
  if (times.length > 0)
    return over(times, (bin) => {
      const all = sumIn(times, bin);
      const idle = sumIn(
        times.filter((one) => IDLE.has(stateOf(one))),
        bin
      );
      return all === null || idle === null || all <= 0 ? null : 1 - idle / all;
    });
  // Shares of each core and state: the mean over the cores.
  const shares = named(series, 'system.cpu.utilization').filter((one) => !IDLE.has(stateOf(one)));
  const cores = groupBy(shares, ({ attributes }) =>
    String(attributes.get('cpu.logical_number') ?? attributes.get('system.cpu.logical_number') ?? '')
  ).size;
  return over(shares, (bin) => {
    const sum = sumIn(shares, bin);
    return sum === null ? null : sum / cores;
  });
}

function memoryShare(series: readonly BinnedSeries[]): Line {
  const isUsed = (one: BinnedSeries): boolean => stateOf(one) === 'used';
  const usage = named(series, 'system.memory.usage');
  const used = usage.filter(isUsed);
  const limit = named(series, 'system.memory.limit');
  if (used.length > 0)
    return over(used, (bin) => {
      const whole = sumIn(limit, bin) ?? sumIn(usage, bin);
      const part = sumIn(used, bin);
      return part === null || whole === null || whole <= 0 ? null : part / whole;
    });
  const shares = named(series, 'system.memory.utilization').filter(isUsed);
  return over(shares, (bin) => sumIn(shares, bin));
}

const firstTold = (series: readonly BinnedSeries[], names: readonly string[]): BinnedSeries[] => {
  const name = names.find((one) => named(series, one).length > 0);
  return name === undefined ? [] : named(series, name);
};
const sumOf =
  (measure: MeasureKey) =>
  (series: readonly BinnedSeries[]): Line => {
    const told = firstTold(series, SOURCES[measure]);
    return over(told, (bin) => sumIn(told, bin));
  };
const mostOf = (series: readonly BinnedSeries[]): Line => over(series, (bin) => mostIn(series, bin));

const LINES: Record<MeasureKey, (series: readonly BinnedSeries[]) => Line> = {
  cpu: cpuShare,
  cores: sumOf('cores'),
  memory: memoryShare,
  resident: sumOf('resident'),
  disk: mostOf,
  loop: mostOf,
  pauses: sumOf('pauses'),
  waiting: sumOf('waiting')
};
