import { describe, expect, it } from 'vitest';
import { emptyBins } from './bins';
import { oddStretches } from './odd-one';
import { lineOf, type BinnedSeries, type Line } from './strips';

const series = (
  name: string,
  means: (number | null)[],
  attributes: Record<string, string> = {}
): BinnedSeries => {
  const bins = emptyBins(0, means.length * 1000, 1000);
  means.forEach((mean, i) => {
    if (mean === null) return;
    bins.weight[i] = 1;
    bins.sum[i] = bins.max[i] = mean;
  });
  return { name, attributes: new Map(Object.entries(attributes)), bins };
};

describe('a line of a row', () => {
  it('of the processors is the share that is neither idle nor waits for a disk', () => {
    const of = (mode: string, ...means: (number | null)[]): BinnedSeries =>
      series('system.cpu.time', means, { 'cpu.mode': mode });
    const all = [
      of('user', 1, 0, null),
      of('system', 0.5, 0, null),
      of('idle', 0.3, 1.5, null),
      of('iowait', 0.2, 0.5, null)
    ];
    expect(lineOf('cpu', all)).toEqual([0.75, 0, null]);
    const perCore = ['0', '1'].flatMap((core) => [
      series('system.cpu.utilization', [core === '0' ? 0.9 : 0.1], {
        'system.cpu.state': 'user',
        'system.cpu.logical_number': core
      }),
      series('system.cpu.utilization', [core === '0' ? 0.1 : 0.9], {
        'system.cpu.state': 'idle',
        'system.cpu.logical_number': core
      })
    ]);
    expect(lineOf('cpu', perCore)![0]).toBeCloseTo(0.5, 12);
  });

  it('of memory is what is used of the limit, or of all states', () => {
    const used = series('system.memory.usage', [30], { state: 'used' });
    expect(lineOf('memory', [used, series('system.memory.usage', [30], { state: 'free' })])).toEqual([0.5]);
    expect(lineOf('memory', [used, series('system.memory.limit', [120])])).toEqual([0.25]);
  });

  it('of disks and event loops is the worst of them; of pools the sum', () => {
    const disks = [series('system.disk.io_time', [0.2, 0.9]), series('system.disk.io_time', [0.4, null])];
    expect(lineOf('disk', disks)).toEqual([0.4, 0.9]);
    const pools = [1, 2].map((n) => series('db.client.connection.pending_requests', [n]));
    expect(lineOf('waiting', pools)).toEqual([3]);
  });

  it('is not told where nobody tells it', () => {
    expect(lineOf('loop', [])).toBeNull();
    expect(lineOf('disk', [series('system.disk.io_time', [null])])).toBeNull();
  });
});

describe('the odd one', () => {
  const flat = (value: number, length = 20): Line => Array.from({ length }, () => value);
  const raised = (from: number, to: number, value: number): Line =>
    flat(0.2).map((base, i) => (i >= from && i < to ? value : base));

  it('is the one that stands clear of all others, as long as it does', () => {
    const [odd, ...more] = oddStretches([flat(0.12), raised(5, 14, 0.97), flat(0.31), null], 0.1);
    expect(more).toEqual([]);
    expect(odd).toMatchObject({ row: 1, from: 5, to: 14 });
    for (const [i, end] of [0.12, 0.31].entries()) expect(odd.others[i]).toBeCloseTo(end, 12);
    expect(odd.level).toBeCloseTo(0.97, 12);
  });

  it('is none where they lie as far apart themselves, for a moment, or by less than matters', () => {
    expect(oddStretches([flat(0.1), raised(0, 20, 0.9), flat(0.6)], 0.1)).toEqual([]);
    expect(oddStretches([flat(0.1), raised(5, 7, 0.9), flat(0.2)], 0.1)).toEqual([]);
    expect(oddStretches([flat(0.01), flat(0.05), flat(0.01)], 0.1)).toEqual([]);
    expect(oddStretches([flat(0.9)], 0.1)).toEqual([]);
  });

  it('of two must be twice the other', () => {
    expect(oddStretches([flat(0.3), flat(0.5)], 0.1)).toEqual([]);
    expect(oddStretches([flat(0.3), flat(0.7)], 0.1)).toHaveLength(1);
  });

  it('goes on over a single bin, and not over what is not known', () => {
    const line = raised(4, 12, 0.9);
    line[8] = 0.2;
    expect(oddStretches([flat(0.2), line, flat(0.2)], 0.1)).toMatchObject([{ from: 4, to: 12 }]);
    line[8] = line[9] = null;
    expect(oddStretches([flat(0.2), line, flat(0.2)], 0.1)).toMatchObject([{ from: 4, to: 8 }]);
  });
});
