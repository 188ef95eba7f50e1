import { describe, expect, it } from 'vitest';
import type { Line } from '../counters/strips';
import { daysUntilFull } from './disk-fills-up';
import type { HostContext, HostProcess } from './host-finding';
import { findOnHost, type HostRule } from './host-rules';

const HOUR = 3_600_000;
const flat = (value: number | null, bins = 20): Line => Array.from({ length: bins }, () => value);
const raised = (value: number, from = 5, to = 14): Line =>
  flat(0).map((_, bin) => (bin >= from && bin < to ? value : 0.1));
const process = (more: Partial<HostProcess>): HostProcess => ({
  pid: 1,
  name: 'node',
  commandLine: 'node',
  owner: '',
  parentPid: null,
  startedMs: null,
  service: '',
  release: '',
  cores: null,
  userCores: null,
  systemCores: null,
  waits: null,
  memoryBytes: null,
  threads: null,
  reads: null,
  writes: null,
  openFiles: null,
  ...more
});
const host = (more: Partial<HostContext> = {}): HostContext => ({
  host: 'quay-2',
  cores: 2,
  fromMs: 60_000,
  stepMs: 60_000,
  lines: {},
  swapping: null,
  bins: 20,
  processesIn: () => [],
  fileSystems: [],
  pools: [],
  loops: [],
  memories: [],
  slowerWhileBusy: [],
  ...more
});
/** Sentences with plain spaces. */
const plain = ({ sentence }: { sentence: string }): string => sentence.replace(/[\u00a0\u202f\u2009]/g, ' ');
const rules = (context: HostContext): HostRule[] => findOnHost(context).map(({ rule }) => rule);
const serving = process({ pid: 3526, service: 'berths', cores: 0.27, waits: 0.38 });
const replay = process({ pid: 8810, name: 'tide-replay', owner: 'ops', cores: 1.66 });

describe('a busy host', () => {
  it('with a neighbour says who takes the cores, who waits for them, and what got slower', () => {
    const found = findOnHost(
      host({
        lines: { cpu: raised(0.97) },
        processesIn: () => [replay, serving],
        slowerWhileBusy: [{ service: 'berths', ratio: 3.12, requests: 200 }]
      })
    );
    expect(found.map(({ rule }) => rule)).toEqual(['neighbour-takes-cpu', 'waits-for-core']);
    expect(found[0]).toMatchObject({
      severity: 'high',
      pid: 8810,
      service: 'berths',
      fromMs: 360_000,
      toMs: 900_000
    });
    expect(plain(found[0])).toBe(
      'tide-replay (pid 8810, of ops) used 1.66 of 2 cores of quay-2 for 9 min, and serves no requests. berths waited for a core for 38 % of that time. Requests of berths took 3.1 times as long as on other hosts meanwhile.'
    );
  });

  it('whose services use the cores themselves has no neighbour to blame', () => {
    const own = process({ service: 'berths', cores: 1.8 });
    expect(rules(host({ lines: { cpu: raised(0.97) }, processesIn: () => [own] }))).toEqual(['busy-host']);
    const small = process({ pid: 9, cores: 0.3 });
    expect(rules(host({ lines: { cpu: raised(0.97) }, processesIn: () => [own, small] }))).toEqual([
      'busy-host'
    ]);
  });

  it('is none for a moment, below the limit, or where nothing is told', () => {
    expect(rules(host({ lines: { cpu: raised(0.97, 5, 7) }, processesIn: () => [replay] }))).toEqual([]);
    expect(rules(host({ lines: { cpu: flat(0.8) }, processesIn: () => [replay] }))).toEqual([]);
    expect(rules(host({ lines: { cpu: flat(null) } }))).toEqual([]);
  });

  it('says nothing of a neighbour where no process is known to serve', () => {
    expect(rules(host({ lines: { cpu: raised(0.97) }, processesIn: () => [replay] }))).toEqual(['busy-host']);
  });
});

describe('a pool', () => {
  const pool = (waiting: Line): HostContext =>
    host({
      pools: [
        {
          name: 'pg',
          of: 'connections',
          service: 'manifests',
          size: 10,
          used: flat(10),
          waiting,
          waitedS: 0.21
        }
      ]
    });
  it('that is used up is told with its size, who waits and how long', () => {
    const [found] = findOnHost(pool(raised(14)));
    expect(plain(found)).toBe(
      'pg of manifests on quay-2: 10 of 10 in use, up to 14 wait, 210 ms each, for 9 min.'
    );
  });
  it('for which somebody waits once is not', () => {
    expect(rules(pool(raised(3, 5, 6)))).toEqual([]);
    expect(rules(pool(flat(0)))).toEqual([]);
  });
});

describe('the event loop and the swap space', () => {
  it('are told where it lasts', () => {
    const loops = (line: Line) => [{ service: 'berths', pid: 7, line }];
    const [found] = findOnHost(host({ loops: loops(raised(0.3)) }));
    expect(found).toMatchObject({ rule: 'event-loop-held', service: 'berths', pid: 7 });
    expect(found.sentence).toMatch(/^The event loop of berths on quay-2 was late by up to 300\sms/);
    expect(rules(host({ loops: loops(flat(0.03)) }))).toEqual([]);
    expect(rules(host({ swapping: raised(400) }))).toEqual(['swapping']);
    expect(rules(host({ swapping: flat(3) }))).toEqual([]);
  });
});

describe('memory', () => {
  const wave = (bin: number): number => 10 + 8 * Math.sin(bin / 4);
  const memory = (bytes: (bin: number) => number): HostContext =>
    host({
      memories: [
        {
          service: 'tides',
          bytes: flat(0, 40).map((_, bin) => bytes(bin)),
          underWay: flat(0, 40).map((_, bin) => wave(bin))
        }
      ]
    });
  it('that rises and falls with requests under way says how much each holds', () => {
    const [found] = findOnHost(memory((bin) => 100e6 + 15e6 * wave(bin)));
    expect(found).toMatchObject({ rule: 'memory-follows-requests', severity: 'high' });
    expect(plain(found)).toMatch(/about 15 MB for each \(rank correlation 1\.00 over 40 bins\)/);
  });
  it('that only grows, hardly moves, or was seen for a moment does not', () => {
    expect(rules(memory((bin) => 100e6 + 15e6 * bin))).toEqual([]);
    expect(rules(memory((bin) => 1000e6 + 1e6 * wave(bin)))).toEqual([]);
    const short = host({ memories: [{ service: 'tides', bytes: flat(1, 5), underWay: flat(1, 5) }] });
    expect(rules(short)).toEqual([]);
  });
});

describe('a file system', () => {
  const system = (used: (hour: number) => number, hours = 48): Parameters<typeof daysUntilFull>[0] => {
    const at = Array.from({ length: hours }, (_, i) => i);
    return {
      mount: '/var',
      limitBytes: 1000,
      usedBytes: used(hours - 1),
      trend: { atMs: at.map((hour) => 1e12 + hour * HOUR), usedBytes: at.map(used) }
    };
  };
  it('that grows steadily says when it is full', () => {
    // By hand: 10 an hour, 530 left.
    expect(daysUntilFull(system((hour) => hour * 10))).toBeCloseTo(530 / 240, 6);
    const [found] = findOnHost(host({ fileSystems: [system((hour) => hour * 10)] }));
    expect(plain(found)).toContain('/var of quay-2 is 47 % full');
    expect(plain(found)).toContain('it is full in about 2 days');
  });
  it('that rises and falls, shrinks, or was seen for an hour does not', () => {
    expect(daysUntilFull(system((hour) => 300 + 200 * Math.sin(hour)))).toBeNull();
    expect(daysUntilFull(system((hour) => 900 - hour))).toBeNull();
    expect(daysUntilFull(system((hour) => hour * 10, 5))).toBeNull();
    expect(rules(host({ fileSystems: [system((hour) => 100 + hour / 100)] }))).toEqual([]);
  });
});
