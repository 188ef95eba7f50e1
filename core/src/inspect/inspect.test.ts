import { describe, expect, it } from 'vitest';
import { decodeTracesJson } from '../formats/otlp/traces';
import { readV8CpuProfile } from '../profile/v8-cpu';
import { inspectProfile } from './profile';
import { inspectTraces } from './traces';

const T0 = 1_700_000_000_000;
const batch = (service: string, ...spans: object[]) =>
  decodeTracesJson(
    JSON.stringify({
      resourceSpans: [
        {
          resource: { attributes: [{ key: 'service.name', value: { stringValue: service } }] },
          scopeSpans: [{ spans }]
        }
      ]
    })
  );
const span = (
  trace: number,
  id: number,
  parent: number,
  kind: number,
  from: number,
  to: number,
  more: object = {}
): object => ({
  traceId: trace.toString(16).padStart(32, '0'),
  spanId: id.toString(16).padStart(16, '0'),
  parentSpanId: parent ? parent.toString(16).padStart(16, '0') : '',
  name: 'work',
  kind,
  startTimeUnixNano: `${T0 + from}000000`,
  endTimeUnixNano: `${T0 + to}000000`,
  ...more
});

describe('inspectTraces', () => {
  it('joins the spans of one trace over batches of several services, in any order', () => {
    const inner = batch('tides', span(1, 3, 2, 2, 20, 60));
    const outer = batch('gateway', span(1, 2, 1, 3, 10, 70), span(1, 1, 0, 2, 0, 100));
    const result = inspectTraces([inner, outer], 0);
    expect(result).toMatchObject({ spans: 3, traces: 1 });
    expect(result.requests.map(({ service, durationNs }) => [service, durationNs])).toEqual([
      ['gateway', 100e6],
      ['tides', 40e6]
    ]);
    expect(result.requests[0].ledger).toMatchObject({ remote: 20e6, ownCode: 80e6 });
  });

  it('states the shift of a skewed clock, and that it did', () => {
    const result = inspectTraces(
      [batch('gateway', span(1, 1, 0, 3, 0, 100)), batch('tides', span(1, 2, 1, 2, 500, 560))],
      0
    );
    expect(result.requests.find(({ service }) => service === 'tides')?.clockShiftNs).toBe(-480e6);
    expect(result.warnings).toMatchObject([{ code: 'clock-skew', count: 1 }]);
  });

  it('sums endpoints over all requests, also those it does not list', () => {
    const spans = Array.from({ length: 10 }, (_, i) =>
      span(i + 1, 1, 0, 2, 0, (i + 1) * 300, i === 9 ? { status: { code: 2 } } : {})
    );
    const result = inspectTraces([batch('berths', ...spans)], 3);
    expect(result.requests).toHaveLength(3);
    expect(result.endpoints).toMatchObject([
      {
        service: 'berths',
        endpoint: 'work',
        count: 10,
        failed: 1,
        totalNs: 16_500e6,
        p50Ns: 1650e6,
        apdex: { tMs: 500, satisfied: 1, tolerating: 5, frustrated: 4, score: 0.35 }
      }
    ]);
  });

  it('counts rejected spans by their reason', () => {
    const result = inspectTraces(
      [batch('berths', span(1, 1, 0, 2, 0, 1), span(0, 1, 0, 2, 0, 1), span(0, 2, 0, 2, 0, 1))],
      0
    );
    expect(result).toMatchObject({ spans: 1, rejected: [{ count: 2 }] });
  });

  it('says nothing of an empty batch', () => {
    expect(inspectTraces([batch('berths')], 0)).toEqual({
      spans: 0,
      traces: 0,
      rejected: [],
      requests: [],
      endpoints: [],
      background: [],
      findings: [],
      warnings: []
    });
  });
});

describe('inspectProfile', () => {
  const nodes = ['(root)', 'outer', 'inner', 'outer', '(idle)'].map((functionName, i) => ({
    id: i + 1,
    callFrame: {
      functionName,
      url: functionName.startsWith('(') ? '' : 'file:///quay/a.js',
      lineNumber: functionName === 'inner' ? 20 : 3,
      columnNumber: 1
    },
    children: [[2, 5], [3], [4], [], []][i]
  }));
  const { profile } = readV8CpuProfile(
    new TextEncoder().encode(
      JSON.stringify({
        nodes,
        startTime: 0,
        endTime: 10_000,
        samples: [2, 3, 4, 5],
        timeDeltas: [0, 1000, 2000, 4000]
      })
    )
  );

  it('gives shares of what was not idle, and the depth of recursion', () => {
    const result = inspectProfile(profile, 0);
    expect(result).toMatchObject({
      valueType: 'cpu',
      unit: 'nanoseconds',
      total: 7e6,
      idle: 3e6,
      samples: 4,
      durationNs: 10e6,
      threads: [{ name: 'main', total: 7e6 }]
    });
    const outer = result.functions.find(({ name }) => name === 'outer')!;
    expect(outer).toMatchObject({ line: 4, column: 2, self: 5e6, total: 7e6, maxRecursion: 2 });
    expect(outer.selfShare).toBeCloseTo(5 / 7, 9);
    expect(result.heaviest.map(({ name, total }) => [name, total])).toEqual([
      ['outer', 7e6],
      ['inner', 6e6],
      ['outer', 4e6]
    ]);
  });

  it('lists as many functions as asked', () => expect(inspectProfile(profile, 1).functions).toHaveLength(1));
});
