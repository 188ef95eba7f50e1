import { describe, expect, it } from 'vitest';
import { maskSpan } from '../../calls/mask';
import { query, span, TRACE_ID } from '../../testing/spans';
import { SpanKind } from '../../trace/span';
import { decodeLogsJson, decodeLogsProtobuf } from './logs';
import { ExportLogsServiceRequest } from './schema';
import { decodeTracesJson } from './traces';
import { writeTracesJson } from './write';

describe('writeTracesJson', () => {
  it('gives what reads back as the same spans', () => {
    const spans = [
      span({
        id: 'r',
        kind: SpanKind.SERVER,
        from: 0.0001,
        to: 20,
        status: 2,
        attributes: { 'http.request.method': 'GET', count: 3, part: 0.5, ok: true, list: ['a', 1] },
        events: [{ name: 'exception', offsetNs: 1500, attributes: new Map([['exception.type', 'Full']]) }]
      }),
      query('q', 'r', 1, 9, 'select 1 from t where a = 5')
    ];
    spans[0].resource.attributes.set('service.name', 'berths');
    const [root, call] = decodeTracesJson(writeTracesJson(spans)).spans.map((raw) =>
      maskSpan(raw, { hashKey: 1, keepLiteralsOf: new Set() })
    );
    for (const name of [
      'traceId',
      'spanId',
      'parentId',
      'startUs',
      'startNs',
      'durationNs',
      'status',
      'kind'
    ] as const)
      expect([root[name], call[name]]).toEqual([spans[0][name], spans[1][name]]);
    expect([...root.attributes]).toEqual([...spans[0].attributes]);
    expect(root.events).toEqual(spans[0].events);
    expect(call.call?.fingerprint).toBe('select ? from t where a = ?');
    expect(root.resource.service).toBe('berths');
  });
});

describe('logs', () => {
  const record = {
    timeUnixNano: '1700000000000001500',
    severityNumber: 17,
    body: { stringValue: 'berth is taken' },
    traceId: TRACE_ID,
    spanId: '00000000000000aa',
    attributes: [{ key: 'berth', value: { intValue: '4' } }]
  };
  const wrap = (...logRecords: object[]): { resourceLogs: object[] } => ({
    resourceLogs: [{ scopeLogs: [{ logRecords }] }]
  });
  it('reads JSON, also records that name no trace, and counts those without a time', () => {
    const { records, rejected } = decodeLogsJson(
      JSON.stringify(wrap(record, { ...record, traceId: '' }, { ...record, timeUnixNano: '0' }))
    );
    expect(rejected).toEqual([{ reason: 'log record names no time', count: 1 }]);
    expect(records[1]).toMatchObject({ traceId: '', spanId: '', body: 'berth is taken' });
    expect(records[0].resource.service).toBe('unknown_service');
    expect(records.slice(0, 1)).toMatchObject([
      {
        traceId: TRACE_ID,
        spanId: '00000000000000aa',
        atUs: 1_700_000_000_000_001,
        atNs: 500,
        severity: 17,
        body: 'berth is taken',
        attributes: new Map([['berth', 4]])
      }
    ]);
  });
  it('reads protobuf', () => {
    const bytes = ExportLogsServiceRequest.encode(
      ExportLogsServiceRequest.create(
        wrap({
          timeUnixNano: 1_700_000_000_000_000_000,
          body: { stringValue: 'hello' },
          traceId: new Uint8Array(16).fill(1),
          spanId: new Uint8Array(8).fill(2)
        })
      )
    ).finish();
    expect(decodeLogsProtobuf(bytes).records).toMatchObject([{ traceId: '01'.repeat(16), body: 'hello' }]);
  });
  it.each(['{', '{}', '[]'])('refuses %s in words', (text) =>
    expect(() => decodeLogsJson(text)).toThrow(/JSON|resourceLogs/)
  );
  it('refuses bytes that are none', () =>
    expect(() => decodeLogsProtobuf(new Uint8Array([10, 200, 1]))).toThrow(/do not decode/));
});
