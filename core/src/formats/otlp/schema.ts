import protobuf from 'protobufjs/light.js';

/**
 * The part of OpenTelemetry's protocol Tromix reads, with the field numbers of opentelemetry-proto v1
 * (collector/trace/v1, trace/v1, collector/logs/v1, logs/v1, collector/metrics/v1, metrics/v1, common/v1, resource/v1). Fields not named here are skipped by the decoder.
 */
const field = (
  id: number,
  type: string,
  rule?: 'repeated'
): { id: number; type: string; rule?: 'repeated' } => (rule ? { id, type, rule } : { id, type });

const root = protobuf.Root.fromJSON({
  nested: {
    AnyValue: {
      // One of them is set, and may be 0, false or '': outside of a oneof the decoder leaves those out.
      oneofs: {
        value: {
          oneof: [
            'stringValue',
            'boolValue',
            'intValue',
            'doubleValue',
            'arrayValue',
            'kvlistValue',
            'bytesValue'
          ]
        }
      },
      fields: {
        stringValue: field(1, 'string'),
        boolValue: field(2, 'bool'),
        intValue: field(3, 'int64'),
        doubleValue: field(4, 'double'),
        arrayValue: field(5, 'ArrayValue'),
        kvlistValue: field(6, 'KeyValueList'),
        bytesValue: field(7, 'bytes')
      }
    },
    ArrayValue: { fields: { values: field(1, 'AnyValue', 'repeated') } },
    KeyValueList: { fields: { values: field(1, 'KeyValue', 'repeated') } },
    KeyValue: { fields: { key: field(1, 'string'), value: field(2, 'AnyValue') } },
    Resource: { fields: { attributes: field(1, 'KeyValue', 'repeated') } },
    Status: { fields: { message: field(2, 'string'), code: field(3, 'int32') } },
    Event: {
      fields: {
        timeUnixNano: field(1, 'fixed64'),
        name: field(2, 'string'),
        attributes: field(3, 'KeyValue', 'repeated')
      }
    },
    Span: {
      fields: {
        traceId: field(1, 'bytes'),
        spanId: field(2, 'bytes'),
        parentSpanId: field(4, 'bytes'),
        name: field(5, 'string'),
        kind: field(6, 'int32'),
        startTimeUnixNano: field(7, 'fixed64'),
        endTimeUnixNano: field(8, 'fixed64'),
        attributes: field(9, 'KeyValue', 'repeated'),
        events: field(11, 'Event', 'repeated'),
        status: field(15, 'Status')
      }
    },
    ScopeSpans: { fields: { spans: field(2, 'Span', 'repeated') } },
    ResourceSpans: {
      fields: { resource: field(1, 'Resource'), scopeSpans: field(2, 'ScopeSpans', 'repeated') }
    },
    ExportTraceServiceRequest: { fields: { resourceSpans: field(1, 'ResourceSpans', 'repeated') } },
    ExportTracePartialSuccess: {
      fields: { rejectedSpans: field(1, 'int64'), errorMessage: field(2, 'string') }
    },
    ExportTraceServiceResponse: { fields: { partialSuccess: field(1, 'ExportTracePartialSuccess') } },
    LogRecord: {
      fields: {
        timeUnixNano: field(1, 'fixed64'),
        severityNumber: field(2, 'int32'),
        body: field(5, 'AnyValue'),
        attributes: field(6, 'KeyValue', 'repeated'),
        traceId: field(9, 'bytes'),
        spanId: field(10, 'bytes'),
        observedTimeUnixNano: field(11, 'fixed64')
      }
    },
    ScopeLogs: { fields: { logRecords: field(2, 'LogRecord', 'repeated') } },
    ResourceLogs: {
      fields: { resource: field(1, 'Resource'), scopeLogs: field(2, 'ScopeLogs', 'repeated') }
    },
    ExportLogsServiceRequest: { fields: { resourceLogs: field(1, 'ResourceLogs', 'repeated') } },
    // The messages around points are walked byte by byte (wire-metrics.ts), number points too.
    HistogramDataPoint: {
      fields: {
        attributes: field(9, 'KeyValue', 'repeated'),
        startTimeUnixNano: field(2, 'fixed64'),
        timeUnixNano: field(3, 'fixed64'),
        count: field(4, 'fixed64'),
        sum: field(5, 'double'),
        bucketCounts: field(6, 'fixed64', 'repeated'),
        explicitBounds: field(7, 'double', 'repeated'),
        flags: field(10, 'uint32'),
        min: field(11, 'double'),
        max: field(12, 'double')
      },
      oneofs: { _sum: { oneof: ['sum'] }, _min: { oneof: ['min'] }, _max: { oneof: ['max'] } }
    },
    ExponentialBuckets: {
      fields: { offset: field(1, 'sint32'), bucketCounts: field(2, 'uint64', 'repeated') }
    },
    ExponentialHistogramDataPoint: {
      fields: {
        attributes: field(1, 'KeyValue', 'repeated'),
        startTimeUnixNano: field(2, 'fixed64'),
        timeUnixNano: field(3, 'fixed64'),
        count: field(4, 'fixed64'),
        sum: field(5, 'double'),
        scale: field(6, 'sint32'),
        zeroCount: field(7, 'fixed64'),
        positive: field(8, 'ExponentialBuckets'),
        negative: field(9, 'ExponentialBuckets'),
        flags: field(10, 'uint32'),
        min: field(12, 'double'),
        max: field(13, 'double'),
        zeroThreshold: field(14, 'double')
      },
      oneofs: { _sum: { oneof: ['sum'] }, _min: { oneof: ['min'] }, _max: { oneof: ['max'] } }
    },
    ValueAtQuantile: { fields: { quantile: field(1, 'double'), value: field(2, 'double') } },
    SummaryDataPoint: {
      fields: {
        attributes: field(7, 'KeyValue', 'repeated'),
        startTimeUnixNano: field(2, 'fixed64'),
        timeUnixNano: field(3, 'fixed64'),
        count: field(4, 'fixed64'),
        sum: field(5, 'double'),
        quantileValues: field(6, 'ValueAtQuantile', 'repeated'),
        flags: field(8, 'uint32')
      }
    },
    // google.rpc.Status, the error body OTLP/HTTP prescribes.
    RpcStatus: { fields: { code: field(1, 'int32'), message: field(2, 'string') } }
  }
});

export const ExportTraceServiceRequest = root.lookupType('ExportTraceServiceRequest');
export const ExportTraceServiceResponse = root.lookupType('ExportTraceServiceResponse');
export const ExportLogsServiceRequest = root.lookupType('ExportLogsServiceRequest');
export const KeyValue = root.lookupType('KeyValue');
export const ResourceMessage = root.lookupType('Resource');
export const HistogramDataPoint = root.lookupType('HistogramDataPoint');
export const ExponentialHistogramDataPoint = root.lookupType('ExponentialHistogramDataPoint');
export const SummaryDataPoint = root.lookupType('SummaryDataPoint');
export const RpcStatus = root.lookupType('RpcStatus');
