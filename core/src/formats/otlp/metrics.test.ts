import { describe, expect, it } from 'vitest';
import { decodeMetricsJson, decodeMetricsProtobuf, type MetricBatch } from './metrics';
import { ExportMetricsServiceRequest } from './schema';

const text = (key: string, stringValue: string): object => ({ key, value: { stringValue } });
const AT = '1790000000000000000';
const document = (metrics: object[]): object => ({
  resourceMetrics: [
    {
      resource: { attributes: [text('service.name', 'tides'), text('host.name', 'quay-3')] },
      scopeMetrics: [{ metrics }]
    }
  ]
});
const told = ({ values }: MetricBatch): unknown[] =>
  values.map(({ resource, name, atUs, value }) => [resource.service, resource.host, name, atUs, value]);

describe('counters by OTLP metrics', () => {
  it('are read from JSON: the parts of a heap are summed, other counters counted', () => {
    const batch = decodeMetricsJson(
      JSON.stringify(
        document([
          { name: 'process.memory.usage', sum: { dataPoints: [{ timeUnixNano: AT, asInt: '412000000' }] } },
          {
            name: 'v8js.memory.heap.used',
            gauge: {
              dataPoints: [
                { timeUnixNano: AT, asInt: '1000', attributes: [text('v8js.heap.space.name', 'new_space')] },
                { timeUnixNano: AT, asDouble: 24.5 },
                { timeUnixNano: AT }
              ]
            }
          },
          {
            name: 'http.server.request.duration',
            histogram: { dataPoints: [{ timeUnixNano: AT, count: '1' }] }
          }
        ])
      )
    );
    expect(told(batch)).toEqual([
      ['tides', 'quay-3', 'process.memory.usage', 1_790_000_000_000_000, 412_000_000],
      ['tides', 'quay-3', 'v8js.memory.heap.used', 1_790_000_000_000_000, 1024.5]
    ]);
    expect(batch.others).toBe(2);
  });

  it('are read from protobuf', () => {
    const nanoseconds = {
      low: Number(BigInt(AT) & 0xffffffffn) | 0,
      high: Number(BigInt(AT) >> 32n),
      unsigned: true
    };
    const bytes = ExportMetricsServiceRequest.encode(
      ExportMetricsServiceRequest.create(
        document([
          {
            name: 'jvm.memory.used',
            sum: {
              dataPoints: [
                { timeUnixNano: nanoseconds, asInt: { low: 70_000, high: 1, unsigned: false } },
                { timeUnixNano: nanoseconds, asDouble: 0.5 }
              ]
            }
          }
        ])
      )
    ).finish();
    expect(told(decodeMetricsProtobuf(bytes))).toEqual([
      ['tides', 'quay-3', 'jvm.memory.used', 1_790_000_000_000_000, 4_294_967_296 + 70_000 + 0.5]
    ]);
  });

  it('are refused in words where they are none', () => {
    expect(() => decodeMetricsJson('{')).toThrow(/does not parse/);
    expect(() => decodeMetricsJson('{"resourceSpans":[]}')).toThrow(/resourceMetrics/);
    expect(() => decodeMetricsProtobuf(Uint8Array.of(0x0a, 0xff))).toThrow(/do not decode/);
  });
});
