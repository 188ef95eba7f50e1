import fc from 'fast-check';
import * as statistics from 'simple-statistics';
import { describe, expect, it } from 'vitest';
import { queueRun, runOf } from '../testing/load-run';
import { samplesCsv } from './csv';
import { figuresOfTimes } from './figures';
import { littlesLaw } from './littles-law';
import { binsOver } from './over-time';
import { pointsOf } from './points';
import { reportOf } from './report';
import { readRun, recogniseRun, writeRun } from './run-file';
import { sampleRows } from './sample-rows';
import { packSamples, Samples, type Sample } from './samples';
import { runResource, spanOf } from './spans';
import { summariseRun } from './summary';
import { traceOf } from './trace-ids';

const anySample = fc.record({
  intendedUs: fc.nat(10_000_000),
  lateUs: fc.nat(5000),
  durationUs: fc.integer({ min: 1, max: 3_000_000 }),
  fault: fc.constantFrom(0, 0, 0, 5),
  user: fc.nat(20)
});
const anySamples = fc.array(anySample, { minLength: 1, maxLength: 200 });

describe('figures of a run', () => {
  // Outside check: the reference library simple-statistics. Its quantiles are of another type (2), so those are compared with type 7 by hand below.
  it('have the mean and deviation of a reference library', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 1e9 }), { minLength: 2, maxLength: 300 }), (times) => {
        const figures = figuresOfTimes(times);
        expect(figures.meanUs).toBeCloseTo(statistics.mean(times), 3);
        expect(figures.deviationUs).toBeCloseTo(statistics.sampleStandardDeviation(times), 3);
        expect(figures.minUs).toBe(statistics.min(times));
        expect(figures.maxUs).toBe(statistics.max(times));
        if (times.length % 2 === 1) expect(figures.medianUs).toBe(statistics.median(times));
      })
    );
  });

  // Hyndman & Fan, type 7: of 1 to 100 the 95th percentile is 95.05, the 99th 99.01.
  it('have the quantiles of their definition', () =>
    expect(figuresOfTimes(Array.from({ length: 100 }, (_, i) => 100 - i))).toMatchObject({
      medianUs: 50.5,
      p95Us: 95.05,
      p99Us: 99.01
    }));

  it('of no request are none, of one have no deviation', () => {
    expect(figuresOfTimes([]).meanUs).toBeNaN();
    expect(figuresOfTimes([7])).toMatchObject({ meanUs: 7, deviationUs: NaN, p99Us: 7 });
  });

  it('count from the intended start in an open model, from sending in a closed one', () => {
    const samples = [{ lateUs: 400, durationUs: 100 }];
    expect(reportOf(runOf({ rate: 5 }, samples))).toMatchObject({
      figures: { meanUs: 500 },
      fromSending: { medianUs: 100 }
    });
    expect(reportOf(runOf({}, samples))).toMatchObject({ figures: { meanUs: 100 }, fromSending: null });
  });
});

describe('a run over time', () => {
  it('has every request in one stretch, and every moment of it under way', () => {
    fc.assert(
      fc.property(anySamples, (given) => {
        const run = runOf({}, given);
        const { seconds, bins } = binsOver(run.samples, false, run.endUs);
        const length = (bin: number): number =>
          Math.min(run.endUs, (bin + 1) * seconds * 1e6) - bin * seconds * 1e6;
        const ended = bins.reduce((sum, { throughput }, i) => sum + (throughput * length(i)) / 1e6, 0);
        expect(ended).toBeCloseTo(given.length, 6);
        const busy = bins.reduce((sum, { underWay }, i) => sum + underWay * length(i), 0);
        const all = given.reduce((sum, { durationUs }) => sum + durationUs, 0);
        expect(Math.abs(busy - all)).toBeLessThan(all * 1e-9 + 1);
        expect(bins.reduce((sum, { failed }) => sum + failed, 0)).toBe(
          given.filter(({ fault }) => fault > 0).length
        );
      })
    );
  });

  it('loses no request among its points, and no extreme', () => {
    fc.assert(
      fc.property(anySamples, (given) => {
        const run = runOf({}, given);
        const points = pointsOf(run.samples, false, run.endUs);
        expect(points.reduce((sum, { count }) => sum + count, 0)).toBe(given.length);
        expect(Math.max(...points.map(({ responseUs }) => responseUs))).toBe(
          Math.max(...given.map(({ durationUs }) => durationUs))
        );
        expect(points.some(({ failed }) => failed)).toBe(given.some(({ fault }) => fault > 0));
      })
    );
  });
});

describe('Little’s law', () => {
  // Outside check: J. D. C. Little (1961): over a time that begins and ends empty L = λ W holds exactly.
  it('holds for any run', () => {
    fc.assert(
      fc.property(anySamples, (given) => {
        const { underWay, throughput, timeSeconds } = littlesLaw(runOf({}, given).samples);
        expect(underWay).toBeCloseTo(throughput * timeSeconds, 6);
      })
    );
  });

  it('gives the server’s capacity where a queue never empties', () => {
    const run = queueRun({ users: 8, loops: 100 }, { servers: 1, serviceUs: 10_000 });
    const law = littlesLaw(run.samples);
    expect(law.throughput).toBeCloseTo(100, 6);
    // Eight users, one served: each waits for the seven before it.
    expect(law.timeSeconds).toBeGreaterThan(0.078);
    expect(law.timeSeconds).toBeLessThanOrEqual(0.08);
  });
});

describe('the file of a run', () => {
  const run = runOf({ name: 'board' }, [
    { intendedUs: 0, durationUs: 1500, user: 3 },
    { intendedUs: 100, lateUs: 20, durationUs: 900, status: 0, bytes: 0, fault: 5 }
  ]);
  const bytes = (value: object | string): Uint8Array =>
    new TextEncoder().encode(typeof value === 'string' ? value : JSON.stringify(value));
  const written = (): Record<string, unknown> => JSON.parse(writeRun(run)) as Record<string, unknown>;

  it('is read as it was written', () => {
    const read = readRun(bytes(writeRun(run)));
    expect(writeRun(read)).toBe(writeRun(run));
    expect(read.samples.at(1)).toEqual(run.samples.at(1));
    expect(recogniseRun({ text: writeRun(run) })).toBe('tromix-load-run');
    expect(recogniseRun({ text: '{"format":"another"}' })).toBeNull();
  });

  it('names faults by itself: those of another version count as some failure', () => {
    const other = written();
    other.faults = ['', 'a', 'b', 'c', 'd', 'struck-by-lightning'];
    expect(readRun(bytes(other)).samples.at(1).fault).toBeGreaterThan(0);
  });

  it.each<[string, (file: Record<string, unknown>) => unknown, string]>([
    ['no JSON', () => '{"format":', 'not-json'],
    ['a list', () => [], 'not-a-run'],
    ['a later version', (file) => ({ ...file, version: 2 }), 'not-a-run'],
    ['a key that is none', (file) => ({ ...file, key: 'x' }), 'not-a-run'],
    [
      'columns of different lengths',
      (file) => ({ ...file, samples: { ...(file.samples as object), user: [1] } }),
      'not-a-run'
    ],
    [
      'a step that is not there',
      (file) => ({ ...file, samples: { ...(file.samples as object), step: [0, 7] } }),
      'not-a-run'
    ],
    [
      'half a step',
      (file) => ({ ...file, samples: { ...(file.samples as object), step: [0, 0.5] } }),
      'not-a-run'
    ],
    [
      'a negative time',
      (file) => ({ ...file, samples: { ...(file.samples as object), durationUs: [-1, 1] } }),
      'not-a-run'
    ],
    ['a time before the epoch', (file) => ({ ...file, startedAtUs: -5 }), 'not-a-run'],
    ['a plan without steps', (file) => ({ ...file, plan: { steps: [] } }), 'not-a-run']
  ])('%s is refused', (_, forge, code) => {
    const forged = forge(written());
    expect(() => readRun(bytes(forged as object | string))).toThrow(expect.objectContaining({ code }));
  });

  it('cut off anywhere is refused in words', () => {
    const text = writeRun(run);
    for (let length = 0; length < text.length - 2; length += 37)
      expect(() => readRun(bytes(text.slice(0, length)))).toThrow(/load run/);
  });

  it('gives a table of its samples, each with its trace', () => {
    const lines = samplesCsv(run).trim().split('\r\n');
    expect(lines).toHaveLength(3);
    expect(lines[1]).toContain(`GET /board,4,0,0,1.5,200,2,,${traceOf(run.key, 0).traceId}`);
    expect(lines[2]).toContain('timeout');
  });

  it('is summed up', () =>
    expect(summariseRun(run)).toMatchObject({
      samples: 2,
      failed: 1,
      medianNs: 1_200_000,
      steps: 1,
      end: 'done'
    }));
});

it('packed samples come out as they went in', () => {
  fc.assert(
    fc.property(anySamples, (given) => {
      const all = given.map((one, number): Sample => ({ number, step: 0, status: 200, bytes: 1, ...one }));
      const samples = new Samples();
      samples.addPacked(packSamples(all));
      expect(Array.from({ length: samples.length }, (_, i) => samples.at(i))).toEqual(all);
    })
  );
});

it('rows are the slowest, the latest or the failed, and name their traces', () => {
  const run = runOf({}, [{ durationUs: 10 }, { durationUs: 30, fault: 2, status: 0 }, { durationUs: 20 }]);
  const numbers = (order: 'slowest' | 'latest' | 'failed'): number[] =>
    sampleRows(run, order).map(({ number }) => number);
  expect([numbers('slowest'), numbers('latest'), numbers('failed')]).toEqual([[1, 2, 0], [2, 1, 0], [1]]);
  expect(sampleRows(run, 'failed')[0]).toMatchObject({
    fault: 'unreachable',
    traceId: traceOf(run.key, 1).traceId
  });
});

it('the driver’s span of a sample is the root of its trace, as long as it took from sending', () => {
  const run = runOf({ steps: [{ url: 'http://127.0.0.1:3000/calls/{1..60}/berth', method: 'POST' }] }, [
    { intendedUs: 1000, lateUs: 50, durationUs: 2500, status: 503, fault: 12 }
  ]);
  const span = spanOf(runResource(run), run.plan, run.startedAtUs, run.samples.at(0));
  expect(span).toMatchObject({
    ...traceOf(run.key, 0),
    parentId: '',
    name: 'POST /calls/{1..60}/berth',
    startUs: run.startedAtUs + 1050,
    durationNs: 2_500_000,
    status: 2
  });
  expect(Object.fromEntries(span.attributes)).toMatchObject({
    'http.request.method': 'POST',
    'server.port': 3000,
    'http.response.status_code': 503,
    'error.type': 'status'
  });
});
