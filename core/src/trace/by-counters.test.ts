import { describe, expect, it } from 'vitest';
import { query, resource, span, traceOf } from '../testing/spans';
import { likelyByCounters, type ToldAround } from './by-counters';
import { SpanKind } from './span';

const berths = resource('berths', 'quay-2', 7);
const tides = resource('tides', 'quay-3', 9);
const told = (more: Partial<ToldAround>): ToldAround => ({
  host: 'quay-2',
  pid: 7,
  service: 'berths',
  pauses: null,
  waitedS: null,
  ...more
});
/** 100 ms of berths: 30 in two queries, 40 in tides, the rest its own. */
const trace = traceOf([
  span({ id: 'r', kind: SpanKind.SERVER, from: 0, to: 100, resource: berths }),
  { ...query('a', 'r', 0, 10, 'select 1'), resource: berths },
  { ...query('b', 'r', 10, 30, 'select 2'), resource: berths },
  span({ id: 's', parent: 'r', kind: SpanKind.SERVER, from: 50, to: 90, resource: tides })
]);
const likely = (...list: ToldAround[]) => likelyByCounters(trace, trace.requests[0], list);

describe('likelyByCounters', () => {
  it('gives each process its own time only', () => {
    expect(likely(told({ pauses: 0.1 })).pauseNs).toBeCloseTo(3e6);
    expect(likely(told({ pauses: 0.1, host: 'quay-3', pid: 9, service: 'tides' })).pauseNs).toBeCloseTo(4e6);
    expect(likely(told({ pauses: 0.1, host: 'quay-9' })).pauseNs).toBe(0);
  });

  it('takes a process whose id is not told for whatever of its service runs there', () => {
    expect(likely(told({ pid: 0, pauses: 0.5 })).pauseNs).toBeCloseTo(15e6);
  });

  it('waits once for each query, and never longer than there is time of its own', () => {
    expect(likely(told({ waitedS: 0.004 })).queueNs).toBeCloseTo(8e6);
    expect(likely(told({ waitedS: 3 })).queueNs).toBeCloseTo(30e6);
    expect(likely(told({ waitedS: 3, pauses: 0.1 })).queueNs).toBeCloseTo(27e6);
  });

  it('leaves it to the trace where that tells of queueing itself', () => {
    const waits = traceOf([
      span({ id: 'r', kind: SpanKind.SERVER, from: 0, to: 100, resource: berths }),
      span({ id: 'w', parent: 'r', name: 'pool.acquire', from: 0, to: 20, resource: berths }),
      { ...query('a', 'r', 20, 30, 'select 1'), resource: berths }
    ]);
    expect(likelyByCounters(waits, waits.requests[0], [told({ waitedS: 0.02 })]).queueNs).toBe(0);
  });

  it('says nothing of what nobody told', () => {
    expect(likely(told({}))).toEqual({ pauseNs: 0, queueNs: 0 });
    expect(likely()).toEqual({ pauseNs: 0, queueNs: 0 });
  });
});
